// What of a thing is chosen from words rather than typed: colours, shapes, rules of zones, dashes and gaps.
import {
  type Field,
  PUT_DOWN,
  RANGES,
  reflectanceOf,
  smoothNodes,
  splitRef,
  type Thing,
  type ThingRef,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { Quantity } from "../../shared/quantity/Quantity.js";
import { Choice, COLOURS, likeWords } from "./Choice.js";
import { meaningOf, numbersOf } from "./facts.js";
import { useField } from "./state.js";
import { changeOne } from "./store.js";

/** What is chosen from words rather than typed. */
export function Choices({ thing, at: ref, name }: { thing: Thing; at: ThingRef; name: string }) {
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
