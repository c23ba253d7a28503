// One procedure: place, run, measure, result; chart, table, verdict, check and history.

import {
  type Chart,
  type ChartSeries,
  type Column,
  driveKind,
  type Estimate,
  type Procedure,
  type Robot,
  withError,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import { useEffect, useMemo, useRef, useState } from "react";
import { ChartView } from "../../shared/charts/ChartView.js";
import { Pick } from "../../shared/controls.js";
import { ask, boardPlace, useLink } from "../../shared/link/linkStore.js";
import { QuantityField } from "../../shared/quantity/QuantityField.js";
import { Check } from "./Check.js";
import { History } from "./History.js";
import { cancelRuns, runMore, useWhyNotMeasured } from "./measuring.js";
import { Placing } from "./Placing.js";
import { ProgramAndSheet } from "./ProgramAndSheet.js";
import { RowsTable } from "./RowsTable.js";
import { rowsOf, settingsOf, useCalibrate } from "./state.js";
import { applyToRobot, changeSetting, choose, keepAsIs, whyNotApplied } from "./store.js";

export function ProcedureView() {
  const open = useCalibrate((state) => state.open);
  const procedure = useCalibrate((state) => state.procedure);
  const rows = useCalibrate((state) => rowsOf(state));
  const settings = useCalibrate((state) => state.settings[state.procedure.id]);
  const robot = open?.robot ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: settings stand for what settingsOf reads
  const estimate = useMemo(
    (): Estimate | null =>
      robot && rows.length > 0 ? procedure.estimate(robot, rows, settingsOf(useCalibrate.getState(), procedure)) : null,
    [robot, procedure, rows, settings],
  );
  if (!robot) return null;
  const unfit = procedure.unfit(robot);
  return (
    <section className="procedure" aria-label={procedure.title}>
      <header>
        <div>
          <h2>{procedure.title}</h2>
          <p className="quiet">{procedure.purpose}</p>
        </div>
        {unfit === null && <Running procedure={procedure} robot={robot} rows={rows.length} />}
      </header>
      {unfit !== null ? (
        <p className="card">{unfit}</p>
      ) : (
        <>
          <Placing procedure={procedure} robot={robot} />
          {procedure.settings.length > 0 && <SettingsRow procedure={procedure} />}
          <div className={isWide(procedure.columns(robot)) ? "measured wide" : "measured"}>
            <ChartCard procedure={procedure} robot={robot} />
            <div className="card">
              <h3>Measured</h3>
              <RowsTable procedure={procedure} robot={robot} doubtful={estimate?.ok ? estimate.doubtful : []} />
            </div>
          </div>
          {estimate && <VerdictCard estimate={estimate} robot={robot} />}
          {driveKind(robot.drive).turnsOnSpot && <Check />}
          <History procedure={procedure} />
          <ProgramAndSheet procedure={procedure} robot={robot} />
        </>
      )}
    </section>
  );
}

/** Tables of many columns, or of some to choose in, take half of the width. */
function isWide(columns: readonly Column[]): boolean {
  return columns.length > 3 || columns.some(({ choices }) => choices !== undefined);
}

function Running({ procedure, robot, rows }: { procedure: Procedure; robot: Robot; rows: number }) {
  const running = useCalibrate((state) => state.running);
  const why = useWhyNotMeasured();
  const hasProgram = procedure.program(robot, settingsOf(useCalibrate.getState(), procedure), 0) !== null;
  if (running)
    return (
      <div className="runs">
        <span role="status">
          {running.procedure !== procedure && (
            <>
              <Button onClick={() => choose(running.procedure)}>{running.procedure.title}</Button>{" "}
            </>
          )}
          {running.what === "rows" ? "Run" : "Square"} <span className="mono">{running.at}</span> of{" "}
          <span className="mono">{running.of}</span>
        </span>
        <Button variant="contained" color="error" onClick={cancelRuns} title="Esc">
          Cancel
        </Button>
      </div>
    );
  const left = Math.max(1, procedure.rowsWanted - rows);
  return (
    <div className="runs">
      {hasProgram && <Pace />}
      {hasProgram && (
        <>
          <Button variant="outlined" disabled={why !== null} onClick={() => void runMore(1)} title={why ?? "R"}>
            Run once
          </Button>
          <Button variant="contained" disabled={why !== null} onClick={() => void runMore(left)} title={why ?? ""}>
            Run {left} {rows > 0 ? "more" : "times"}
          </Button>
        </>
      )}
    </div>
  );
}

const PACES = [1, 5, 20];

/** A stand-in's time may run faster than a real robot's. */
function Pace() {
  // A board's time is its own.
  const pace = useLink((state) =>
    state.hello?.simulated && !boardPlace(state.wanted) ? (state.state?.pace ?? null) : null,
  );
  if (pace === null) return null;
  return (
    <Pick
      className="mono"
      aria-label="The simulated robot's time"
      title="How fast the simulated robot's time goes by"
      value={pace}
      onChange={(event) => void ask({ kind: "pace", times: Number(event.target.value) })}
    >
      {PACES.map((times) => (
        <option key={times} value={times}>
          ×{times}
        </option>
      ))}
    </Pick>
  );
}

function SettingsRow({ procedure }: { procedure: Procedure }) {
  const settings = useCalibrate((state) => settingsOf(state, procedure));
  return (
    <p className="settings">
      {procedure.settings.map(({ id, label, shown, least, most, choices }) => (
        <span key={id}>
          {label}{" "}
          {choices ? (
            <Pick
              aria-label={label}
              value={settings[id] ?? 0}
              onChange={(event) => changeSetting(procedure, id, Number(event.target.value))}
            >
              {choices.map((words, value) => (
                <option key={words} value={value}>
                  {words}
                </option>
              ))}
            </Pick>
          ) : (
            <QuantityField
              digits={String(+((settings[id] ?? 0) * shown.perSi).toFixed(shown.digits))}
              unit={shown.unit}
              label={label}
              refuse={(digits) =>
                Number(digits) / shown.perSi < least || Number(digits) / shown.perSi > most
                  ? `${label} is between ${least * shown.perSi} and ${most * shown.perSi} ${shown.unit}.`
                  : null
              }
              onChange={(text) => {
                const value = Number.parseFloat(text) / shown.perSi;
                if (Number.isFinite(value)) changeSetting(procedure, id, value);
              }}
            />
          )}
        </span>
      ))}
    </p>
  );
}

/** Width of an element, followed as it changes. */
export function useWidth(): [React.RefObject<HTMLDivElement | null>, number] {
  const element = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!element.current) return;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, []);
  return [element, width];
}

/** Rows of now beside those the version in use was made from. */
function withBefore(now: Chart | null, before: Chart | null): Chart | null {
  if (!now || !before) return now ?? before;
  const [old, fresh] = [before, now].map((chart, i) =>
    chart.series
      .filter(({ role }) => role === "measured" || role === "after")
      .map(
        (series): ChartSeries => ({
          ...series,
          role: i === 0 ? "measured" : "after",
          label: series.label === "" ? "" : i === 0 ? "before" : "after",
        }),
      ),
  );
  return { ...now, series: [...(old ?? []), ...(fresh ?? [])] };
}

function ChartCard({ procedure, robot }: { procedure: Procedure; robot: Robot }) {
  const rows = useCalibrate((state) => rowsOf(state));
  const settings = useCalibrate((state) => state.settings[state.procedure.id]);
  const [element, width] = useWidth();
  const before = useCalibrate((state) =>
    state.history.find(({ quantity, appliedNumber }) => quantity === procedure.id && appliedNumber !== null),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: settings stand for what settingsOf reads
  const chart = useMemo(() => {
    const values = settingsOf(useCalibrate.getState(), procedure);
    return withBefore(
      procedure.chart(robot, rows, values),
      before ? procedure.chart(robot, before.rows, values) : null,
    );
  }, [procedure, robot, rows, settings, before]);
  return (
    <div className="card chartcard">
      <h3>{chart?.title ?? "Nothing measured yet"}</h3>
      <div ref={element} className="chartspace">
        {chart && width > 0 ? (
          <ChartView chart={chart} width={width} height={236} />
        ) : (
          <p className="quiet">
            {procedure.rowsWanted} rows make a good start. Link {robot.name} at the top right and run it there, or type
            what you measured in the table.
          </p>
        )}
      </div>
    </div>
  );
}

function VerdictCard({ estimate, robot }: { estimate: Estimate; robot: Robot }) {
  const procedure = useCalibrate((state) => state.procedure);
  const worth = useCalibrate((state) => state.worth?.find((one) => one.procedure === state.procedure.id) ?? null);
  const mission = useCalibrate((state) => state.missions.find(({ id }) => id === state.worthMission)?.name ?? null);
  const [keeping, setKeeping] = useState(false);
  const why = useCalibrate(whyNotApplied);
  const busy = keeping || why !== null;
  const linked = useLink((state) => (state.hello?.robot === robot.name ? (state.state?.packVolts ?? null) : null));
  if (!estimate.ok)
    return (
      <div className="card verdict" role="status">
        <p>{estimate.why}</p>
      </div>
    );
  const conditions = `${linked === null ? "typed by hand" : `simulated robot, ${linked.toFixed(1)} V`}, ${estimate.interval}`;
  const act = (what: () => Promise<void>) => {
    setKeeping(true);
    void what().finally(() => setKeeping(false));
  };
  return (
    <div className="card verdict" role="status">
      <div>
        <h3>{estimate.verdict.title}</h3>
        <p>
          {estimate.verdict.text}
          {worth && mission && (
            <>
              {" "}
              On {mission} one standard error of the {worth.words} moves the robot {(worth.mostM * 1000).toFixed(0)} mm
              {worth.step && ` by step ${worth.step}`} now.
            </>
          )}
        </p>
        <p className="quiet results">
          {estimate.results.map(({ id, label, shown, estimate: value }) => (
            <span key={id}>
              {label} <span className="mono">{withError(value.value, value.standardError, shown)}</span>
            </span>
          ))}
          <span>interval: {estimate.interval}</span>
        </p>
      </div>
      {estimate.table && (
        <Table className="resulttable">
          <caption>{estimate.table.title}</caption>
          <TableBody>
            {estimate.table.rows.map((row, i) => (
              <TableRow key={row[0]}>
                {row.map((text, k) => {
                  const head = i === 0 || k === 0 ? ({ component: "th" } as const) : {};
                  return (
                    // biome-ignore lint/suspicious/noArrayIndexKey: columns are places
                    <TableCell key={k} {...head}>
                      {text}
                    </TableCell>
                  );
                })}
              </TableRow>
            ))}
          </TableBody>
        </Table>
      )}
      <div className="acts">
        <Button variant="outlined" disabled={busy} onClick={() => act(() => keepAsIs(estimate))}>
          {estimate.edits.length > 0 ? "Keep as is" : "Keep"}
        </Button>
        {estimate.edits.length > 0 && (
          <Button variant="contained" disabled={busy} onClick={() => act(() => applyToRobot(estimate, conditions))}>
            Use it
          </Button>
        )}
        {why !== null && <span className="quiet">{why}</span>}
      </div>
      <span className="sr">{procedure.title}</span>
    </div>
  );
}
