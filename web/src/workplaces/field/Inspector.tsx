// What is chosen, with its numbers in place; several things together; or the floor itself.
import {
  type Alignment,
  COLOUR_NAMES,
  type Field,
  type FieldProblem,
  findStart,
  freeThingName,
  linearRgb,
  nameColour,
  PUT_DOWN,
  plateHex,
  RANGES,
  reflectanceOf,
  smoothNodes,
  splitRef,
  THING_WORDS,
  type Thing,
  type ThingRef,
  thingName,
  thingOf,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { Quantity } from "../../shared/Quantity.js";
import { meaningOf, numbersOf } from "./facts.js";
import { useField } from "./state.js";
import {
  align,
  changeField,
  changeOne,
  distribute,
  duplicate,
  isLocked,
  mirror,
  removeChosen,
  reorder,
  setStartNumber,
  showPanel,
  toggleLock,
  turn,
} from "./store.js";

export function Inspector() {
  const chosen = useField((state) => state.chosen);
  const [only] = chosen;
  return (
    <section className="inspector" aria-label="What is chosen">
      {only && chosen.length === 1 ? <One key={only} thing={only} /> : chosen.length > 1 ? <Several /> : <Floor />}
      <Troubles />
    </section>
  );
}

function Choice(props: {
  label: string;
  value: string;
  options: readonly (readonly [value: string, words: string])[];
  onChange: (value: string) => void;
}) {
  return (
    <div className="quantityrow">
      <span>{props.label}</span>
      <TextField
        select
        size="small"
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
        slotProps={{ select: { native: true }, htmlInput: { "aria-label": props.label } }}
      >
        {props.options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </TextField>
    </div>
  );
}

function Name({ thing: ref, value }: { thing: ThingRef; value: string }) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const [list] = splitRef(ref);
  const commit = () => {
    const name = typed.trim().replaceAll('"', "");
    const needed = list === "zones" || list === "loads" || list === "gates" || list === "begins";
    if (name === value || name.length > (list === "gates" ? 12 : 60) || (name === "" && needed)) return setTyped(value);
    const { field } = useField.getState();
    const others = (field[list] as readonly Thing[]).map((one) => one.name).filter((one) => one !== value);
    const free = name === "" ? undefined : freeThingName(name, others);
    changeOne(ref, `naming ${name || THING_WORDS[list][0]}`, (one) => {
      const { name: _, ...rest } = one;
      return (free === undefined ? rest : { ...one, name: free }) as Thing;
    });
  };
  return (
    <TextField
      className="thingname"
      size="small"
      value={typed}
      placeholder={`${THING_WORDS[list][0]} without a name`}
      slotProps={{ htmlInput: { "aria-label": "Name", maxLength: 60 } }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLElement).blur()}
    />
  );
}

function One({ thing: ref }: { thing: ThingRef }) {
  const field = useField((state) => state.field);
  const thing = thingOf(field, ref);
  if (!thing) return null;
  const [list] = splitRef(ref);
  const name = thingName(field, ref);
  const meaning = meaningOf(thing);
  return (
    <>
      <h2 className="sr">{name}</h2>
      <Name thing={ref} value={thing.name ?? ""} />
      <p className="quiet kindwords">{kindWords(thing, THING_WORDS[list][0])}</p>
      {numbersOf(thing).map(({ key, label, hint, unit, digits, value, least, most, set }) => (
        <Quantity
          key={key}
          label={label}
          {...(hint ? { hint } : {})}
          unit={unit}
          {...(digits === undefined ? {} : { digits })}
          value={value}
          least={least}
          most={most}
          onChange={(next, how) =>
            changeOne(
              ref,
              `${label.toLowerCase()} of ${name}`,
              (one) => set(one, next),
              how === "stepped" ? `${ref} ${key}` : undefined,
            )
          }
        />
      ))}
      <Choices thing={thing} at={ref} name={name} />
      {meaning.length > 0 && (
        <dl className="means">
          <dt className="meanshead">What this means</dt>
          {meaning.map(([label, value]) => (
            <div key={label}>
              <dt>{label}</dt>
              <dd className="mono">{value}</dd>
            </div>
          ))}
        </dl>
      )}
      <Acts refs={[ref]} />
    </>
  );
}

function kindWords(thing: Thing, kind: string): string {
  if ("pointsM" in thing) return `a line of ${thing.pointsM.length} points${thing.closed ? ", closed" : ""}`;
  if ("nodes" in thing) return `a smooth curve of ${thing.nodes.length} points${thing.closed ? ", closed" : ""}`;
  if ("shape" in thing && typeof thing.shape === "object" && "colour" in thing) return "a patch";
  return /^[aeio]/.test(kind) ? `an ${kind}` : `a ${kind}`;
}

const COLOURS: readonly (readonly [string, string])[] = COLOUR_NAMES.map((name) => [plateHex(name), name]);

/** A colour of its own by the name it is nearest to. */
function likeWords(hex: string): string {
  return `nearly ${COLOUR_NAMES[nameColour(linearRgb(hex)).index] ?? "grey"}`;
}

/** What is chosen from words rather than typed. */
function Choices({ thing, at: ref, name }: { thing: Thing; at: ThingRef; name: string }) {
  const put = (label: string, change: Partial<Record<string, unknown>>) =>
    changeOne(ref, `${label} of ${name}`, (one) => ({ ...one, ...change }) as Thing);
  return (
    <>
      {"colour" in thing && (
        <Choice
          label="Colour"
          value={thing.colour}
          options={
            COLOURS.some(([hex]) => hex === thing.colour)
              ? COLOURS
              : [[thing.colour, likeWords(thing.colour)], ...COLOURS]
          }
          onChange={(colour) =>
            put("colour", { colour, ...("reflectance" in thing ? { reflectance: reflectanceOf(colour) } : {}) })
          }
        />
      )}
      {("pointsM" in thing || "nodes" in thing) && <StrokeChoices thing={thing} at={ref} name={name} />}
      {"massKg" in thing && (
        <Choice
          label="Shape"
          value={thing.shape}
          options={[
            ["box", "box"],
            ["disc", "round, as a can"],
          ]}
          onChange={(shape) => put("shape", { shape, sizeM: [thing.sizeM[0], thing.sizeM[0]] })}
        />
      )}
      {"counts" in thing && <ZoneChoices thing={thing} put={put} />}
      {splitRef(ref)[0] === "begins" && (
        <Choice
          label="Put down"
          value={("put" in thing ? thing.put : undefined) ?? "eye"}
          options={PUT_DOWN.map((how) => [how, { eye: "by eye", jig: "in a jig", wall: "against a wall" }[how]])}
          onChange={(how) => put("placing", { put: how })}
        />
      )}
      {"shape" in thing && typeof thing.shape === "object" && <RoundChoice thing={thing} put={put} />}
    </>
  );
}

function RoundChoice({
  thing,
  put,
}: {
  thing: Extract<Thing, { shape: object }>;
  put: (label: string, change: Record<string, unknown>) => void;
}) {
  const { shape } = thing as { shape: { kind: string; cornersM?: [number, number][] } };
  if (shape.kind !== "polygon" || (shape.cornersM?.length ?? 0) !== 4) return null;
  const xs = (shape.cornersM ?? []).map(([x]) => x);
  const ys = (shape.cornersM ?? []).map(([, y]) => y);
  const [lx, hx, ly, hy] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const round = {
    kind: "ellipse",
    centreM: [(lx + hx) / 2, (ly + hy) / 2],
    radiusXM: (hx - lx) / 2,
    radiusYM: (hy - ly) / 2,
  };
  return (
    <div className="acts">
      <Button variant="outlined" onClick={() => put("shape", { shape: round })}>
        Make it round
      </Button>
    </div>
  );
}

function ZoneChoices({
  thing,
  put,
}: {
  thing: Field["zones"][number];
  put: (label: string, change: Record<string, unknown>) => void;
}) {
  const loads = useField((state) => state.field.loads);
  return (
    <>
      <Choice
        label="Counts"
        value={thing.counts}
        options={[
          ["robot", "the robot"],
          ["load", "loads"],
        ]}
        onChange={(counts) => put("what counts", { counts })}
      />
      <Choice
        label="When"
        value={thing.rule}
        options={[
          ["inside", "all of it is inside"],
          ["touching", "any part is inside"],
        ]}
        onChange={(rule) => put("rule", { rule })}
      />
      {thing.counts === "load" && (
        <>
          <Choice
            label="Which load"
            value={thing.only ?? ""}
            options={[["", "any"], ...loads.map(({ name }) => [name, name] as const)]}
            onChange={(only) => put("load", { only: only === "" ? null : only })}
          />
          <FormControlLabel
            control={
              <Checkbox size="small" checked={thing.upright} onChange={(_, upright) => put("rule", { upright })} />
            }
            label="Only standing upright"
          />
          <Quantity
            label="Loads that count at most"
            unit=""
            digits={0}
            value={thing.most}
            least={1}
            most={1000}
            onChange={(most) => put("most", { most: Math.round(most) })}
          />
        </>
      )}
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={thing.beforeSec !== null}
            onChange={(_, on) => put("time", { beforeSec: on ? 60 : null })}
          />
        }
        label="Only before a time"
      />
      {thing.beforeSec !== null && (
        <Quantity
          label="Before"
          unit="s"
          value={thing.beforeSec}
          {...RANGES.time}
          onChange={(beforeSec) => put("time", { beforeSec })}
        />
      )}
    </>
  );
}

function StrokeChoices({
  thing,
  at: ref,
  name,
}: {
  thing: Extract<Thing, { widthM: number }>;
  at: ThingRef;
  name: string;
}) {
  const without = (one: Thing, ...keys: string[]): Thing =>
    Object.fromEntries(Object.entries(one).filter(([key]) => !keys.includes(key))) as Thing;
  const toggle = (label: string, on: boolean, key: string, value: unknown) =>
    changeOne(ref, `${label} of ${name}`, (one) => (on ? ({ ...one, [key]: value } as Thing) : without(one, key)));
  const smooth = () =>
    changeOne(ref, `curving ${name}`, (one) =>
      "pointsM" in one
        ? ({ ...without(one, "pointsM"), kind: "curve", nodes: smoothNodes(one.pointsM, one.closed === true) } as Thing)
        : "nodes" in one
          ? ({ ...without(one, "nodes"), kind: "line", pointsM: one.nodes.map(({ atM }) => atM) } as Thing)
          : one,
    );
  const half = numbersOf(thing).length;
  return (
    <>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={thing.closed === true}
            onChange={(_, on) => toggle("closing", on, "closed", true)}
          />
        }
        label="Closed"
      />
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={thing.dash !== undefined}
            onChange={(_, on) => toggle("dashes", on, "dash", { onM: 0.06, offM: 0.04 })}
          />
        }
        label="Dashes"
      />
      <div className="acts" data-rows={half}>
        <Button variant="outlined" onClick={smooth}>
          {"pointsM" in thing ? "Make it a curve" : "Make it straight"}
        </Button>
        <Button variant="outlined" onClick={() => addGap(ref, thing, name)}>
          Add a gap
        </Button>
        {(thing.gaps?.length ?? 0) > 0 && (
          <Button
            variant="outlined"
            onClick={() => changeOne(ref, `closing the gaps of ${name}`, (one) => without(one, "gaps"))}
          >
            Close the gaps
          </Button>
        )}
      </div>
    </>
  );
}

/** In the middle of what is the longest unbroken stretch. */
function addGap(ref: ThingRef, thing: Extract<Thing, { widthM: number }>, name: string): void {
  const [, lengthText = "0"] = meaningOf(thing)[0] ?? [];
  const length = Number.parseFloat(lengthText) / 100;
  const gaps = [...(thing.gaps ?? [])].sort((a, b) => a.atM - b.atM);
  const ends = [0, ...gaps.flatMap(({ atM, lengthM }) => [atM, atM + lengthM]), length];
  let best = { from: 0, to: length };
  for (let i = 0; i < ends.length; i += 2) {
    const [from, to] = [ends[i] ?? 0, ends[i + 1] ?? length];
    if (i === 0 || to - from > best.to - best.from) best = { from, to };
  }
  const lengthM = Math.min(0.08, (best.to - best.from) / 3);
  if (lengthM < 0.001) return;
  const gap = { atM: (best.from + best.to - lengthM) / 2, lengthM };
  changeOne(ref, `a gap in ${name}`, (one) => ("widthM" in one ? { ...one, gaps: [...(one.gaps ?? []), gap] } : one));
}

function Acts({ refs }: { refs: readonly ThingRef[] }) {
  const locked = refs.every(isLocked);
  return (
    <div className="acts">
      <Button variant="outlined" onClick={() => duplicate(1, [0.05, -0.05])} title="Ctrl+D">
        Duplicate
      </Button>
      <Button variant="outlined" onClick={() => turn(1)} title="R">
        Turn
      </Button>
      <Button variant="outlined" onClick={() => mirror("across")} title="Left and right change places">
        Mirror
      </Button>
      <Button variant="outlined" onClick={() => reorder("front")} title="]">
        To the front
      </Button>
      <Button variant="outlined" onClick={() => reorder("back")} title="[">
        To the back
      </Button>
      <Button variant="outlined" onClick={() => toggleLock(refs)} title="K">
        {locked ? "Unlock" : "Lock"}
      </Button>
      <Button variant="outlined" onClick={removeChosen} title="Delete">
        Remove
      </Button>
    </div>
  );
}

const ALIGNED: readonly (readonly [Alignment, string])[] = [
  ["left", "Left"],
  ["middle across", "Middle"],
  ["right", "Right"],
  ["top", "Top"],
  ["middle along", "Centre"],
  ["bottom", "Bottom"],
];

function Several() {
  const chosen = useField((state) => state.chosen);
  const [count, setCount] = useState(4);
  const [step, setStep] = useState(0.1);
  return (
    <>
      <h2>{chosen.length} things</h2>
      <p className="quiet">Chosen together: they move, turn and go as one.</p>
      <fieldset className="acts plainset">
        <legend>Align</legend>
        {ALIGNED.map(([how, words]) => (
          <Button key={how} variant="outlined" onClick={() => align(how)}>
            {words}
          </Button>
        ))}
      </fieldset>
      <fieldset className="acts plainset">
        <legend>Spread evenly</legend>
        <Button variant="outlined" onClick={() => distribute("x")}>
          Across
        </Button>
        <Button variant="outlined" onClick={() => distribute("y")}>
          Along
        </Button>
      </fieldset>
      <fieldset className="plainset">
        <legend>Duplicate along a line</legend>
        <Quantity
          label="Copies"
          unit=""
          digits={0}
          value={count}
          least={1}
          most={60}
          onChange={(n) => setCount(Math.round(n))}
        />
        <Quantity label="From one to the next" unit="cm" value={step} least={0.001} most={10} onChange={setStep} />
        <div className="acts">
          <Button variant="outlined" onClick={() => duplicate(count, [step, 0])}>
            To the right
          </Button>
          <Button variant="outlined" onClick={() => duplicate(count, [0, step])}>
            Upward
          </Button>
        </div>
      </fieldset>
      <Acts refs={chosen} />
    </>
  );
}

function Floor() {
  const part = useField((state) => state.floorPart);
  if (part === "surface") return <Surface />;
  if (part === "picture") return <Picture />;
  return <SizeAndEdge />;
}

function SizeAndEdge() {
  const field = useField((state) => state.field);
  const { size } = field;
  const ready = field.made ? findStart(field.made.start) : null;
  const put = (label: string, change: Partial<Field["size"]>) =>
    changeField(label, (now) => ({ ...now, size: { ...now.size, ...change } }));
  return (
    <>
      <h2>Size and edge</h2>
      <Quantity
        label="Width"
        unit="cm"
        value={size.widthM}
        {...RANGES.field}
        onChange={(widthM) => put("width of the floor", { widthM })}
      />
      <Quantity
        label="Depth"
        unit="cm"
        value={size.heightM}
        {...RANGES.field}
        onChange={(heightM) => put("depth of the floor", { heightM })}
      />
      <Quantity
        label="Round corners, radius"
        unit="mm"
        value={size.cornerRadiusM}
        least={0}
        most={25}
        onChange={(cornerRadiusM) => put("corners of the floor", { cornerRadiusM })}
      />
      <Choice
        label="Edge"
        value={field.edge}
        options={[
          ["rim", "a rim that stops robots"],
          ["open", "open, the floor goes on"],
        ]}
        onChange={(edge) => changeField("edge of the floor", (now) => ({ ...now, edge: edge as Field["edge"] }))}
      />
      {ready && field.made && (
        <div className="means">
          <h3>{ready.title}</h3>
          <p className="quiet">{ready.about} It is made anew with each number, until you draw on it.</p>
          {ready.numbers.map(({ key, label, unit, least, most }) => (
            <Quantity
              key={key}
              label={label}
              unit={unit === "m" ? "cm" : unit === "kg" ? "g" : unit === "rad" ? "deg" : unit}
              digits={unit === "" ? 2 : 1}
              value={field.made?.numbers[key] ?? 0}
              least={least}
              most={most}
              onChange={(value) => setStartNumber(key, value)}
            />
          ))}
        </div>
      )}
      <div className="acts">
        <Button variant="outlined" onClick={() => showPanel("fields")}>
          Ready starts and files
        </Button>
      </div>
    </>
  );
}

function Surface() {
  const { surface, light } = useField((state) => state.field);
  const put = (label: string, change: Partial<Field["surface"]>) =>
    changeField(label, (now) => ({ ...now, surface: { ...now.surface, ...change } }));
  const lit = (label: string, change: Field["light"]) => changeField(label, (now) => ({ ...now, light: change }));
  const level = light?.level ?? 1;
  const lamp = light?.lamp;
  const moveLamp = (change: Partial<NonNullable<typeof lamp>>) =>
    lamp && lit("the lamp", { level, lamp: { ...lamp, ...change } });
  return (
    <>
      <h2>Surface and light</h2>
      <Quantity
        label="Grip"
        hint="1 as the tyres are stated for"
        unit=""
        digits={2}
        value={surface.grip}
        {...RANGES.friction}
        onChange={(grip) => put("grip of the floor", { grip })}
      />
      <Quantity
        label="Light it sends back"
        unit="%"
        digits={0}
        value={surface.reflectance}
        least={0}
        most={1}
        onChange={(reflectance) => put("light of the floor", { reflectance })}
      />
      <Choice
        label="Colour"
        value={surface.colour}
        options={[
          ["#EDE6D6", "paper"],
          ...COLOURS,
          ...(COLOURS.some(([hex]) => hex === surface.colour) || surface.colour === "#EDE6D6"
            ? []
            : ([[surface.colour, likeWords(surface.colour)]] as const)),
        ]}
        onChange={(colour) => put("colour of the floor", { colour, reflectance: reflectanceOf(colour) })}
      />
      <Quantity
        label="Light of the room"
        hint="1 as sensors are stated for"
        unit=""
        digits={2}
        value={level}
        least={0}
        most={4}
        onChange={(next) => lit("light of the room", { ...light, level: next })}
      />
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={lamp !== undefined}
            onChange={(_, on) =>
              lit("the lamp", on ? { level, lamp: { xM: 0, yM: 0, heightM: 1, level: 3 } } : { level })
            }
          />
        }
        label="A lamp that casts shadows"
      />
      {lamp && (
        <>
          <Quantity
            label="Lamp along"
            unit="cm"
            value={lamp.xM}
            {...RANGES.place}
            onChange={(xM) => moveLamp({ xM })}
          />
          <Quantity label="Lamp up" unit="cm" value={lamp.yM} {...RANGES.place} onChange={(yM) => moveLamp({ yM })} />
          <Quantity
            label="Lamp height"
            unit="cm"
            value={lamp.heightM}
            {...RANGES.height}
            onChange={(heightM) => moveLamp({ heightM })}
          />
          <Quantity
            label="Light right below it"
            hint="added to that of the room"
            unit=""
            digits={2}
            value={lamp.level}
            least={0}
            most={20}
            onChange={(next) => moveLamp({ level: next })}
          />
        </>
      )}
    </>
  );
}

function Picture() {
  const picture = useField((state) => state.field.picture);
  return (
    <>
      <h2>Picture of the mat</h2>
      {picture ? (
        <>
          <p>
            The floor shows a picture of {picture.columns} × {picture.rows} cells of 2 mm. Sensors see its light and
            colours. Marks and things are drawn on top.
          </p>
          {!picture.png && <p className="note warning">The picture is not at hand. Reload the page.</p>}
          <div className="acts">
            <Button
              variant="outlined"
              onClick={() => changeField("taking the picture away", ({ picture: _, ...rest }) => rest as Field)}
            >
              Take it away
            </Button>
          </div>
        </>
      ) : (
        <p>Photograph your mat from above. Four corners make it straight, and it becomes the floor.</p>
      )}
      <div className="acts">
        <Button variant="contained" onClick={() => showPanel("fields")}>
          Read a picture
        </Button>
      </div>
    </>
  );
}

function Troubles() {
  const problems = useField((state) => state.problems);
  const chosen = useField((state) => state.chosen);
  const [first] = chosen;
  const shown = first ? problems.filter(({ at }) => chosen.includes(at as ThingRef)) : problems;
  if (shown.length === 0) return null;
  return (
    <>
      {shown.slice(0, 8).map((problem) => (
        <Trouble key={`${problem.code} ${problem.at}`} problem={problem} />
      ))}
      {shown.length > 8 && <p className="quiet">{shown.length - 8} more.</p>}
    </>
  );
}

function Trouble({ problem: { severity, message, fix, at } }: { problem: FieldProblem }) {
  return (
    <p className={`note ${severity}`} role="alert">
      {message}{" "}
      {at !== "field" && (
        <Button className="mend" onClick={() => useField.setState({ chosen: [at] })}>
          Show it
        </Button>
      )}
      {fix && (
        <Button className="mend" onClick={() => changeField(fix.label.toLowerCase(), fix.apply)}>
          {fix.label}
        </Button>
      )}
    </p>
  );
}
