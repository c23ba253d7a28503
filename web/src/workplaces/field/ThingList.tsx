// What lies on the floor and stands on it, by kind with counts; adding by a word.
import {
  type Field,
  type ThingList as ListName,
  plainDigits,
  READY_STARTS,
  refOf,
  type ThingRef,
  thingName,
} from "@giddy-pebble/core";
import Autocomplete from "@mui/material/Autocomplete";
import ButtonBase from "@mui/material/ButtonBase";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import { memo, useRef } from "react";
import { useKeys } from "../../shared/keys.js";
import { Pebble } from "../../shared/Pebble.js";
import { TOOLS, type ToolId } from "./drawing.js";
import { factOf } from "./facts.js";
import { useField } from "./state.js";
import { choose, chooseAlso, isLocked, showPanel, takeTool } from "./store.js";

const GROUPS: readonly (readonly [title: string, lists: readonly ListName[]])[] = [
  ["Marks", ["marks", "tags"]],
  ["Stands on it", ["walls", "obstacles", "boulders", "loads"]],
  ["Slopes", ["ramps"]],
  ["Counts and begins", ["zones", "gates", "begins"]],
];

/** More of one group than this are folded away behind a count. */
const SHOWN = 60;

function FloorRow({ part, title, fact }: { part: "size" | "surface" | "picture"; title: string; fact: string }) {
  const current = useField((state) => state.chosen.length === 0 && state.floorPart === part);
  return (
    <ButtonBase
      className="part"
      aria-current={current ? "true" : undefined}
      onClick={() => useField.setState({ chosen: [], floorPart: part })}
    >
      <Pebble fill={current ? "water" : "stone"} width={14} />
      <span className="name">{title}</span>
      <span className="mono quiet">{fact}</span>
    </ButtonBase>
  );
}

function sizeWords({ size }: Field): string {
  return `${plainDigits(size.widthM * 100, 1)} × ${plainDigits(size.heightM * 100, 1)} cm`;
}

export function FieldThings() {
  const field = useField((state) => state.field);
  return (
    <nav className="parts" aria-label="On the field">
      <section>
        <h2>Floor</h2>
        <FloorRow part="size" title="Size, edge" fact={sizeWords(field)} />
        <FloorRow
          part="surface"
          title="Surface and light"
          fact={`${Math.round(field.surface.reflectance * 100)} %${field.light?.lamp ? ", lamp" : ""}`}
        />
        <FloorRow part="picture" title="Picture of the mat" fact={field.picture ? "laid" : "none"} />
      </section>
      {GROUPS.map(([title, lists]) => (
        <Group key={title} title={title} lists={lists} field={field} />
      ))}
      <AddByWord />
    </nav>
  );
}

function Group({ title, lists, field }: { title: string; lists: readonly ListName[]; field: Field }) {
  const refs = lists.flatMap((list) => field[list].map((_, i) => refOf(list, i)));
  if (refs.length === 0) return null;
  return (
    <section>
      <h2>
        {title} <span className="mono">{refs.length}</span>
      </h2>
      {refs.slice(0, SHOWN).map((ref) => (
        <Row key={ref} thing={ref} />
      ))}
      {refs.length > SHOWN && <p className="quiet more">{refs.length - SHOWN} more: choose them on the board.</p>}
    </section>
  );
}

const Row = memo(function Row({ thing: ref }: { thing: ThingRef }) {
  const name = useField((state) => thingName(state.field, ref));
  const fact = useField((state) => factOf(state.field, ref));
  const current = useField((state) => state.chosen.includes(ref));
  const trouble = useField((state) => state.problems.find((problem) => problem.at === ref));
  const fill = trouble ? (trouble.severity === "error" ? "rust" : "amber") : current ? "water" : "stone";
  const button = (
    <ButtonBase
      className="part"
      aria-current={current ? "true" : undefined}
      onClick={(event) => (event.shiftKey ? chooseAlso(ref) : choose([ref]))}
    >
      <Pebble fill={fill} width={14} />
      <span className="name">
        {name}
        {isLocked(ref) && <span className="quiet"> locked</span>}
      </span>
      <span className="mono quiet">{fact}</span>
      {trouble && <span className="sr">{trouble.message}</span>}
    </ButtonBase>
  );
  return trouble ? (
    <Tooltip title={trouble.message} placement="right" describeChild>
      {button}
    </Tooltip>
  ) : (
    button
  );
});

type Choice = { readonly label: string; readonly act: () => void };

/** Words people use for what the tools draw. */
const OTHER_WORDS: Partial<Record<ToolId, readonly string[]>> = {
  line: ["track", "trail", "stripe"],
  patch: ["spot", "area"],
  wall: ["plank", "fence"],
  boulder: ["post", "stone", "round obstacle"],
  load: ["box", "can", "crate"],
  tag: ["plate", "colour tag"],
  begin: ["start place", "home"],
  ramp: ["slope"],
};

function choices(): Choice[] {
  const tools = TOOLS.filter(({ list }) => list !== null).flatMap(({ id, title }) => [
    { label: title, act: () => takeTool(id) },
    ...(OTHER_WORDS[id] ?? []).map((word) => ({
      label: word.replace(/^./, (letter) => letter.toUpperCase()),
      act: () => takeTool(id),
    })),
  ]);
  const starts = READY_STARTS.map(({ title }) => ({
    label: `New field: ${title.toLowerCase()}`,
    act: () => showPanel("fields"),
  }));
  return [...tools, ...starts];
}

function AddByWord() {
  const input = useRef<HTMLInputElement>(null);
  useKeys([{ keys: "a", where: "outside text", act: () => input.current?.focus() }]);
  return (
    <Autocomplete
      className="addword"
      options={choices()}
      autoHighlight
      blurOnSelect
      clearOnBlur
      value={null}
      onChange={(_, chosen) => chosen?.act()}
      slotProps={{ popper: { disablePortal: true } }}
      renderInput={(params) => (
        <TextField
          {...params}
          inputRef={input}
          size="small"
          placeholder="Add: line, wall, boulder…  A"
          aria-label="Add a thing"
        />
      )}
    />
  );
}
