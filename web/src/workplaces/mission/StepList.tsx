// The Steps view: rows of the tree with numbers and names edited in place; add, delete, move by drag and keys.
import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import {
  type Blame,
  missionRows,
  moveStep,
  type Problem,
  placeAtLine,
  type Row,
  type StepSummary,
} from "@giddy-pebble/core";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useEffect, useMemo, useRef, useState } from "react";
import { CONTROLS, isTyping, useKeys } from "../../shared/keys.js";
import { chooseOne, chooseTo, toggleChosen } from "../../shared/mission/choosing.js";
import { selectedLine, selectedPlace, useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";
import { problemsByLine } from "./problemsByLine.js";
import { type PlannedTime, StepRow } from "./StepRow.js";
import { stepKeys, useClipboard } from "./stepKeys.js";

/** Seconds each line's steps take together, and how the last ended. */
function timesByLine(steps: readonly StepSummary[]): Map<number, { ms: number; endedBy: string }> {
  const times = new Map<number, { ms: number; endedBy: string }>();
  for (const step of steps) {
    const line = step.line - 1;
    times.set(line, { ms: (times.get(line)?.ms ?? 0) + step.endMs - step.startMs, endedBy: step.endedBy });
  }
  return times;
}

export function StepList({
  editLine,
  setEditLine,
}: {
  editLine: number | null;
  setEditLine: (line: number | null) => void;
}) {
  const mission = useMission((state) => state.mission);
  const lineIds = useMission((state) => state.history.present.lineIds);
  const problems = useMission((state) => state.problems);
  const planned = useMission((state) => state.planned);
  const selected = useMission(selectedLine);
  const chosen = useMission((state) => state.chosen);
  const list = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => missionRows(mission), [mission]);
  const trouble = useMemo(() => problemsByLine(mission.text, problems), [mission, problems]);
  const times = useMemo(() => timesByLine(planned?.summary?.steps ?? []), [planned]);
  const study = useMission((state) => (state.study?.text === state.history.present.text ? state.study : null));
  const blames = useMemo(
    () => new Map((study?.summary.blames ?? []).map((blame) => [blame.line - 1, blame] as const)),
    [study],
  );
  const [dragging, setDragging] = useState(false);
  // By keys steps are moved with Alt and the arrows.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const stepLines = useMemo(
    () => rows.filter((row) => row.type === "step" || row.type === "broken").map((row) => row.line),
    [rows],
  );
  const sortable = useMemo(() => stepLines.map((line) => lineIds[line] ?? String(line)), [stepLines, lineIds]);
  const shownRows = useShownRows(list, rows, lineIds, selected, editLine);

  useKeys(stepKeys(stepLines, setEditLine));
  useClipboard();

  const dropped = ({ active, over }: DragEndEvent) => {
    setDragging(false);
    if (!over || active.id === over.id) return;
    const from = placeAtLine(mission, lineIds.indexOf(String(active.id)));
    const to = placeAtLine(mission, lineIds.indexOf(String(over.id)));
    if (!from || !to) return;
    edit(moveStep(mission, from, to, to.statement.line > from.statement.line ? "after" : "before"), "moving a step");
  };

  const headProblems = useMemo(() => {
    const shown = new Set(rows.map((row) => row.line));
    return [...trouble].filter(([line]) => !shown.has(line));
  }, [rows, trouble]);
  const active = selected === null ? undefined : `row-${lineIds[selected]}`;
  return (
    <div
      ref={list}
      className="steps"
      role="tree"
      aria-label="Steps"
      tabIndex={0}
      aria-activedescendant={active}
      aria-multiselectable="true"
    >
      {headProblems.flatMap(([line, found]) =>
        found.map((problem) => (
          <div className="banner" role="none" key={`${problem.code}${problem.start}`}>
            line {line + 1}: {problem.message}
          </div>
        )),
      )}
      <DndContext
        accessibility={{ container: document.body }}
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragStart={() => setDragging(true)}
        onDragCancel={() => setDragging(false)}
        onDragEnd={dropped}
      >
        <SortableContext items={sortable} strategy={verticalListSortingStrategy}>
          <div
            role="none"
            className={shownRows.heightPx === null ? undefined : "longlist"}
            style={shownRows.heightPx === null ? undefined : { height: shownRows.heightPx }}
          >
            {shownRows.rows.map(({ row, topPx, index }) => {
              const id = lineIds[row.line] ?? String(row.line);
              const shown = (
                <StepRow
                  key={id}
                  id={id}
                  row={row}
                  selected={row.line === selected}
                  chosen={chosen.has(id)}
                  choose={(event) => {
                    if (event.shiftKey) chooseTo(row.line, stepLines);
                    else if (event.ctrlKey || event.metaKey) toggleChosen(row.line);
                    else chooseOne(row.line);
                    // A press on the words or the pebble of a step leaves the keys with the list.
                    if (isOfRow(event.target)) list.current?.focus({ preventScroll: true });
                  }}
                  editing={row.line === editLine}
                  endEdit={(refocus) => {
                    setEditLine(null);
                    if (refocus) list.current?.focus();
                  }}
                  startEdit={() => setEditLine(row.line)}
                  problems={trouble.get(row.line) ?? NO_PROBLEMS}
                  time={timeOf(row, times, blames, study?.summary.runs ?? 0)}
                  quiet={dragging}
                />
              );
              return topPx === null ? (
                shown
              ) : (
                <div
                  key={id}
                  role="none"
                  data-index={index}
                  ref={shownRows.measure}
                  style={{ position: "absolute", top: 0, left: 0, right: 0, transform: `translateY(${topPx}px)` }}
                >
                  {shown}
                </div>
              );
            })}
          </div>
        </SortableContext>
      </DndContext>
      {rows.length === 0 && <p className="comment">No steps yet. Type the first one below, for example: go 30 cm</p>}
    </div>
  );
}

const NO_PROBLEMS: readonly Problem[] = [];
/** Longer lists show only the rows in sight, and some around them. */
const ALL_ROWS = 300;
const ROW_PX = 30;
const AROUND = 15;

interface ShownRows {
  readonly rows: readonly { readonly row: Row; readonly index: number; readonly topPx: number | null }[];
  /** Height of all rows together; null when all are shown. */
  readonly heightPx: number | null;
  readonly measure: (element: Element | null) => void;
}

/** The rows to draw: all of a list of usual length, those in sight of a long one. */
function useShownRows(
  list: RefObject<HTMLDivElement | null>,
  rows: readonly Row[],
  lineIds: readonly string[],
  selected: number | null,
  editLine: number | null,
): ShownRows {
  const long = rows.length > ALL_ROWS;
  const virtual = useVirtualizer({
    count: long ? rows.length : 0,
    getScrollElement: () => list.current,
    estimateSize: () => ROW_PX,
    overscan: AROUND,
    getItemKey: (index) => lineIds[rows[index]?.line ?? -1] ?? index,
  });
  const wanted = editLine ?? selected;
  const index = useMemo(() => rows.findIndex((row) => row.line === wanted), [rows, wanted]);
  useEffect(() => {
    if (long && index >= 0) virtual.scrollToIndex(index, { align: "auto" });
  }, [long, index, virtual]);
  if (!long)
    return { rows: rows.map((row, at) => ({ row, index: at, topPx: null })), heightPx: null, measure: () => {} };
  return {
    rows: virtual.getVirtualItems().flatMap(({ index: at, start }) => {
      const row = rows[at];
      return row ? [{ row, index: at, topPx: start }] : [];
    }),
    heightPx: virtual.getTotalSize(),
    measure: virtual.measureElement,
  };
}

/** Whether a press was on a row itself, not on a control in it. A press that opened a field leaves the keys there. */
function isOfRow(target: EventTarget): boolean {
  if (isTyping(document.activeElement)) return false;
  return target instanceof Element && (target.closest(".handle") !== null || target.closest(CONTROLS) === null);
}

const ENDINGS: Readonly<Record<string, string>> = {
  done: "got there",
  until: "its until came true",
  for: "its time was up",
  limit: "reached its limit",
  stalled: "stalled at a stop",
  lost: "lost its line",
  ended: "came to the wall's end",
  skipped: "was skipped",
  bound: "never got there",
  interrupted: "was cut short",
};

const ENDED: Readonly<Record<string, string>> = {
  until: "until",
  for: "time up",
  limit: "limit",
  stalled: "stalled",
  lost: "line lost",
  ended: "wall ended",
  skipped: "skipped",
  bound: "never",
  interrupted: "cut short",
};

/** Seconds of a step as planned, how it ends, and why that is not well: in the plan, or in many rehearsals. */
function timeOf(
  row: Row,
  times: ReadonlyMap<number, { ms: number; endedBy: string }>,
  blames: ReadonlyMap<number, Blame>,
  tried: number,
): PlannedTime | null {
  if (row.type !== "step") return null;
  const time = times.get(row.line);
  const blame = blames.get(row.line);
  if ((!time || time.ms === 0) && !blame) return null;
  const endedBy = time?.endedBy ?? "";
  const planned =
    endedBy === "limit"
      ? "As planned, this step reaches its limit."
      : endedBy === "bound"
        ? "As planned, this step never gets there."
        : endedBy === "stalled"
          ? "As planned, this step stalls at a stop."
          : null;
  const lost = blame ? `In ${blame.runs} of ${tried} rehearsals the run is lost here: ${blame.how}.` : null;
  return {
    words: time && time.ms > 0 ? `${(time.ms / 1000).toFixed(1)} s` : "",
    ended: endedBy === "done" ? "" : (ENDED[endedBy] ?? ""),
    ending: ENDINGS[endedBy] ?? "",
    trouble: lost ?? planned,
  };
}

/** Where a new step goes: after the selected one, else at the end. */
export function insertionPlace(): ReturnType<typeof selectedPlace> {
  return selectedPlace(useMission.getState());
}
