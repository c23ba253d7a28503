// One row of the step list.
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { enableSteps, isSwitchedOff, type Problem, type Row, rewriteStep } from "@giddy-pebble/core";
import { useEffect, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { Pieces } from "../../shared/mission/Pieces.js";
import { useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";
import { Pebble, type PebbleFill } from "../../shared/Pebble.js";

export interface PlannedTime {
  readonly words: string;
  /** How it ends as planned, in a word where it does not simply get there, and in a sentence. */
  readonly ended: string;
  readonly ending: string;
  readonly trouble: string | null;
}

interface Props {
  id: string;
  row: Row;
  selected: boolean;
  /** Chosen together with the selected one. */
  chosen: boolean;
  choose(event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean; target: EventTarget }): void;
  editing: boolean;
  startEdit(): void;
  endEdit(refocus: boolean): void;
  problems: readonly Problem[];
  time: PlannedTime | null;
  quiet: boolean;
}

const INDENT_PX = 26;

export function StepRow(props: Props) {
  const { row } = props;
  if (row.type === "comment")
    return (
      <div className="comment" role="none" style={{ marginLeft: row.depth * INDENT_PX }}>
        # {row.text}
        {isSwitchedOff(row.text) && !/^off: {2}/.test(row.text) && (
          <button type="button" className="mend" onClick={() => switchOn(row.line)}>
            switch on
          </button>
        )}
      </div>
    );
  if (row.type === "branch" || row.type === "routine") return <HeadRow {...props} />;
  return <SortableRow {...props} />;
}

function switchOn(line: number): void {
  edit(enableSteps(useMission.getState().mission, line), "switching a step on", line);
}

function HeadRow({ row, problems }: Props) {
  if (row.type !== "branch" && row.type !== "routine") return null;
  return (
    <div
      className="row"
      role="treeitem"
      tabIndex={-1}
      aria-level={row.depth + 1}
      style={{ marginLeft: row.depth * INDENT_PX }}
    >
      <span />
      <span className="words">
        <Pieces pieces={row.main} />
      </span>
      <Problems problems={problems} />
    </div>
  );
}

function stateOf(
  selected: boolean,
  problems: readonly Problem[],
  broken: boolean,
): { row: string; pebble: PebbleFill } {
  if (problems.some((problem) => problem.severity === "error"))
    return { row: broken ? "broken" : "trouble", pebble: broken ? "amber" : "rust" };
  if (selected) return { row: "selected", pebble: "ink" };
  return { row: problems.length > 0 ? "warned" : "", pebble: problems.length > 0 ? "amber" : "stone" };
}

function SortableRow({ id, row, selected, chosen, choose, editing, startEdit, endEdit, problems, time }: Props) {
  const sortable = useSortable({ id });
  const hovered = useMission((state) => state.hoverLine === row.line || state.live?.line === row.line);
  const element = useRef<HTMLDivElement | null>(null);
  useEffect(() => {
    if (selected) element.current?.scrollIntoView({ block: "nearest" });
  }, [selected]);
  if (row.type !== "step" && row.type !== "broken") return null;
  const state = stateOf(selected || chosen, problems, row.type === "broken");
  const style = {
    transform: CSS.Translate.toString(sortable.transform),
    transition: sortable.transition,
    marginLeft: row.depth * INDENT_PX,
  };
  const label = row.label.replace(/^.*\./, "");
  const short = row.depth === 0 ? label : label.slice(-(/[a-z]+$|\d+$/.exec(label)?.[0].length ?? 1));
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: keys are handled by the tree the row belongs to
    <div
      ref={(node) => {
        element.current = node;
        sortable.setNodeRef(node);
      }}
      id={`row-${id}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={row.depth + 1}
      aria-selected={selected || chosen}
      className={`row ${state.row} ${hovered ? "lit" : ""} ${sortable.isDragging ? "dragging" : ""}`}
      style={style}
      onClick={choose}
      onDoubleClick={startEdit}
      onPointerEnter={() => useMission.setState({ hoverLine: row.line })}
      onPointerLeave={() => useMission.setState({ hoverLine: null })}
    >
      <button
        type="button"
        className="handle"
        // What stands on it is part of its name.
        aria-label={`Step ${row.depth > 1 ? `${row.label}, ${short}` : row.label}, drag to move`}
        data-keys="yield"
        tabIndex={-1}
        ref={sortable.setActivatorNodeRef}
        {...sortable.listeners}
      >
        <Pebble fill={state.pebble} text={short} width={26} />
      </button>
      {editing ? (
        <LineEditor line={row.line} close={endEdit} />
      ) : (
        <span className="words">
          {row.type === "broken" ? <span className="mono">{row.text}</span> : <Pieces pieces={row.main} />}
        </span>
      )}
      {time && !editing && (
        <span className="took" title={time.ending}>
          {time.words}
          {time.ended !== "" && (
            <span className="ended" aria-hidden="true">
              {time.ended}
            </span>
          )}
          <span className="sr"> {time.ending}</span>
        </span>
      )}
      {row.type === "step" && row.tail.length > 0 && !editing && (
        <span className="words second" style={{ gridColumn: "2 / -1" }}>
          <Pieces pieces={row.tail} />
        </span>
      )}
      <Problems problems={problems} />
      {time?.trouble && <span className="why">{time.trouble}</span>}
    </div>
  );
}

/** The whole line as text; Enter takes it, Escape leaves it as it was. */
function LineEditor({ line, close }: { line: number; close: (refocus: boolean) => void }) {
  const mission = useMission((state) => state.mission);
  const place = mission.lines[line];
  const first = place?.tokens[0];
  const [text, setText] = useState(() =>
    first && place ? mission.text.slice(first.start, place.tokens.at(-1)?.end) : "",
  );
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  const take = (refocus: boolean) => {
    if (text.trim() !== "") edit(rewriteStep(mission, line, text), "editing a step");
    close(refocus);
  };
  return (
    <Typed
      ref={input}
      className="editor-in"
      aria-label="Step as text"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Enter") take(true);
        if (event.key === "Escape") close(true);
      }}
      onBlur={() => take(false)}
    />
  );
}

function Problems({ problems }: { problems: readonly Problem[] }) {
  return problems.map((problem) => (
    <span key={`${problem.code}${problem.start}`} className={`why ${problem.severity === "warning" ? "warn" : ""}`}>
      {problem.message}
      {problem.mend && (
        <button
          type="button"
          className="mend"
          onClick={(event) => {
            event.stopPropagation();
            if (problem.mend)
              edit({ start: problem.mend.start, end: problem.mend.end, insert: problem.mend.text }, "fixing a step");
          }}
        >
          {problem.mend.label}
        </button>
      )}
    </span>
  ));
}
