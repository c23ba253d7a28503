// What N rehearsals say together: how often it worked, which step loses runs, how long they took, what would help.

import { type Help, histogram, type RunDigest } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { axisBottom, max, scaleLinear, select } from "d3";
import { useEffect, useMemo, useRef } from "react";
import { plainAxis } from "../../shared/charts/plainAxis.js";
import { Bar } from "../../shared/controls.js";
import { useMission } from "../../shared/mission/state.js";
import { selectLine } from "../../shared/mission/store.js";
import { cancelStudy, findHelp, replay, type Study } from "../../shared/mission/studying.js";
import { Panel } from "../../shared/Panel.js";
import { Pebble } from "../../shared/Pebble.js";

export function percent(share: number): string {
  return `${(share * 100).toFixed(share > 0 && share < 1 && (share < 0.01 || share > 0.99) ? 1 : 0)} %`;
}

export function StudyPanel() {
  const study = useMission((state) => state.study);
  const close = () => useMission.setState({ panel: "none" });
  if (!study) {
    return (
      <Panel title="Try many times" label="Many rehearsals" close={close}>
        <p>One rehearsal says that it can work. Two hundred say how often. Press Try below the field.</p>
      </Panel>
    );
  }
  const { summary, digests, running, runs } = study;
  return (
    <Panel title={`Tried ${running ? "" : `${summary.runs} times`}`.trim()} label="Many rehearsals" close={close}>
      {running && (
        <div className="progress">
          <Bar share={digests.length / runs} label="Rehearsals done" />
          <span className="mono" role="status">
            {digests.length} of {runs}
          </span>
          <Button size="small" onClick={cancelStudy}>
            Cancel
          </Button>
        </div>
      )}
      {summary.runs > 0 && <Figures study={study} />}
    </Panel>
  );
}

function Figures({ study }: { study: Study }) {
  const { summary, digests, running } = study;
  const failed = useMemo(() => digests.filter((digest) => !digest.success), [digests]);
  const hasGoal = useMission((state) => state.mission.goal !== null);
  return (
    <>
      <p className="rate" role="status">
        <strong className="mono">{percent(summary.successes / summary.runs)}</strong>{" "}
        {hasGoal ? "met the goal" : "came to their end"}
        <span className="quiet">
          {" "}
          {summary.successes} of {summary.runs}; likely {percent(summary.low)} to {percent(summary.high)}
        </span>
      </p>
      {summary.meanScore !== null && (
        <p>
          Score <span className="mono">{summary.meanScore.toFixed(1)} points</span> on average
          {summary.lowestScore !== summary.highestScore && (
            <span className="quiet">
              , {summary.lowestScore} to {summary.highestScore}
            </span>
          )}
        </p>
      )}
      <Durations digests={digests} />
      {summary.blames.length > 0 && (
        <section aria-label="Where runs are lost">
          <h3>Where runs are lost</h3>
          <ul className="blames">
            {summary.blames.slice(0, 5).map((blame) => (
              <li key={blame.step}>
                <button type="button" className="plain" onClick={() => selectLine(blame.line - 1)}>
                  <Pebble fill="rust" text={blame.step} width={26} />
                  <span>
                    <strong className="mono">{blame.runs}</strong> in step {blame.step}
                    <small className="quiet">{blame.how}</small>
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {failed.length > 0 && !running && (
        <section aria-label="Lost runs">
          <h3>Lost runs, press one to see it again</h3>
          <div className="lostruns">
            {failed.slice(0, 60).map((digest) => (
              <button
                key={digest.index}
                type="button"
                className="mono"
                title={digest.reason}
                aria-label={`Run ${digest.index + 1}: ${digest.reason}`}
                onClick={() => replay(digest)}
              >
                {digest.index + 1}
              </button>
            ))}
          </div>
        </section>
      )}
      {!running && <Helps study={study} />}
    </>
  );
}

const WIDE = 330;
const HIGH = 92;
/** Room at both ends for half of a tick's label, px. */
const EDGE = 22;

/** A histogram of how long the runs took; those that failed stand on top in rust, hatched by their place. */
function Durations({ digests }: { digests: readonly RunDigest[] }) {
  const svg = useRef<SVGSVGElement>(null);
  const bins = useMemo(() => {
    const all = histogram(digests.map((digest) => digest.durationMs / 1000));
    return all.map((bin, i) => {
      const last = i === all.length - 1;
      const inside = digests.filter(
        ({ durationMs }) => durationMs / 1000 >= bin.from && (last || durationMs / 1000 < bin.to),
      );
      return { ...bin, lost: inside.filter((digest) => !digest.success).length };
    });
  }, [digests]);
  const low = bins[0]?.from ?? 0;
  const high = bins.at(-1)?.to ?? 1;
  useEffect(() => {
    if (!svg.current) return;
    const x = scaleLinear([low, high], [EDGE, WIDE - EDGE]);
    const axis = select(svg.current).select<SVGGElement>("g.time");
    axis.call(
      axisBottom(x)
        .ticks(5)
        .tickSize(3)
        .tickFormat((value) => `${value} s`),
    );
    plainAxis(axis);
  }, [low, high]);
  const x = scaleLinear([low, high], [EDGE, WIDE - EDGE]);
  const y = scaleLinear([0, max(bins, (bin) => bin.count) ?? 1], [HIGH - 20, 4]);
  return (
    <section aria-label="How long they took">
      <h3>How long they took</h3>
      <svg ref={svg} width={WIDE} height={HIGH} role="img" aria-label={`From ${low} s to ${high} s`}>
        {bins.map((bin) => (
          <g key={bin.from}>
            <rect
              x={x(bin.from) + 0.5}
              width={Math.max(1, x(bin.to) - x(bin.from) - 1)}
              y={y(bin.count)}
              height={y(0) - y(bin.count)}
              fill="var(--water)"
            />
            <rect
              x={x(bin.from) + 0.5}
              width={Math.max(1, x(bin.to) - x(bin.from) - 1)}
              y={y(bin.count)}
              height={y(0) - y(bin.lost)}
              fill="var(--rust)"
            />
          </g>
        ))}
        <g className="time" transform={`translate(0 ${HIGH - 19})`} />
      </svg>
    </section>
  );
}

function Helps({ study }: { study: Study }) {
  const { helps } = study;
  return (
    <section aria-label="What would help most">
      <h3>What would help most</h3>
      {!helps && (
        <>
          <p className="quiet">
            Tries each thing the runs scatter by: known exactly, and off by one standard error, all else being the same.
          </p>
          <Button size="small" variant="outlined" onClick={findHelp}>
            Find out
          </Button>
        </>
      )}
      {helps?.running && (
        <div className="progress">
          <Bar share={helps.done / helps.all} label="Rehearsals done" />
          <span className="mono" role="status">
            {helps.done} of {helps.all}
          </span>
          <Button size="small" onClick={cancelStudy}>
            Cancel
          </Button>
        </div>
      )}
      {helps && helps.list.length > 0 && <HelpTable list={helps.list} />}
    </section>
  );
}

function signed(change: number): string {
  const points = Math.round(change * 100);
  return points === 0 ? "no change" : `${points > 0 ? "+" : "−"}${Math.abs(points)} %`;
}

function HelpTable({ list }: { list: readonly Help[] }) {
  return (
    <Table className="helps">
      <TableHead>
        <TableRow>
          <TableCell>What</TableCell>
          <TableCell>known exactly</TableCell>
          <TableCell>off by one error</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {list.map((help) => (
          <TableRow key={help.key}>
            <TableCell>{help.words}</TableCell>
            <TableCell className="mono">{signed(help.exact - help.now)}</TableCell>
            <TableCell className="mono">{help.off === null ? "" : signed(help.off - help.now)}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
