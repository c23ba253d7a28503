// What is chosen, with its numbers in place; several things together; or the floor itself.
import {
  type Alignment,
  type FieldProblem,
  freeThingName,
  splitRef,
  THING_WORDS,
  type Thing,
  type ThingRef,
  thingName,
  thingOf,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { Quantity } from "../../shared/quantity/Quantity.js";
import { Floor } from "./FloorInspector.js";
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
  toggleLock,
  turn,
} from "./store.js";
import { Choices } from "./ThingChoices.js";

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
