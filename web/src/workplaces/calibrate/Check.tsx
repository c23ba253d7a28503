// The check drive: squares both ways by each version, so that before and after stand side by side.
import Button from "@mui/material/Button";
import { CHECK_SIDE_M, runCheck, useWhyNotMeasured } from "./measuring.js";
import { type CheckRun, useCalibrate } from "./state.js";
import { clearChecks } from "./store.js";

const SIZE = 170;
const EACH = 2;

/** Mean return error of a version's squares, the larger of both ways, m. */
function returnError(runs: readonly CheckRun[]): number {
  const ways = [1, -1].map((way) => {
    const own = runs.filter((run) => run.way === way);
    if (own.length === 0) return 0;
    const x = own.reduce((sum, run) => sum + run.xM, 0) / own.length;
    const y = own.reduce((sum, run) => sum + run.yM, 0) / own.length;
    return Math.hypot(x, y);
  });
  return Math.max(...ways);
}

export function Check() {
  const checks = useCalibrate((state) => state.checks);
  const now = useCalibrate((state) => state.open?.number ?? 0);
  const running = useCalibrate((state) => state.running);
  const why = useWhyNotMeasured();
  const versions = [...new Set(checks.map(({ number }) => number))].sort((a, b) => a - b);
  const newest = versions.at(-1);
  return (
    <div className="card check">
      <h3>Checked on a square, both ways round</h3>
      <div className="checkrow">
        {checks.length > 0 && <Ends checks={checks} newest={newest ?? 0} />}
        <div>
          {checks.length === 0 && (
            <p className="quiet">
              Squares of {CHECK_SIDE_M * 100} cm side show whether a change helps. Drive them before you use a result,
              and again after.
            </p>
          )}
          {versions.map((number) => (
            <p key={number}>
              Return error of version <span className="mono">{number}</span>
              {number === now ? ", in use now" : ""}:{" "}
              <strong className="mono">
                {(returnError(checks.filter((run) => run.number === number)) * 1000).toFixed(0)} mm
              </strong>
            </p>
          ))}
          {checks.length > 0 && (
            <p className="quiet">
              filled: counter-clockwise · open: clockwise · water: the newest version, amber: before
            </p>
          )}
          <p className="runs">
            <Button
              variant="outlined"
              disabled={why !== null || running !== null}
              title={why ?? ""}
              onClick={() => void runCheck(EACH)}
            >
              Drive {2 * EACH} squares
            </Button>
            {checks.length > 0 && <Button onClick={clearChecks}>Forget them</Button>}
          </p>
        </div>
      </div>
    </div>
  );
}

function Ends({ checks, newest }: { checks: readonly CheckRun[]; newest: number }) {
  const reach = Math.max(0.01, ...checks.map(({ xM, yM }) => Math.max(Math.abs(xM), Math.abs(yM)))) * 1.15;
  const at = (metres: number) => SIZE / 2 + (metres / reach) * (SIZE / 2 - 8);
  return (
    <svg
      className="ends"
      width={SIZE}
      height={SIZE}
      viewBox={`0 0 ${SIZE} ${SIZE}`}
      role="img"
      aria-label="Where the squares ended, from their start"
    >
      <line x1="0" x2={SIZE} y1={SIZE / 2} y2={SIZE / 2} className="grid" />
      <line x1={SIZE / 2} x2={SIZE / 2} y1="0" y2={SIZE} className="grid" />
      <text x={SIZE - 4} y={SIZE / 2 - 5} textAnchor="end">
        x, {(reach * 1000).toFixed(0)} mm
      </text>
      <text x={SIZE / 2 + 5} y="10">
        y
      </text>
      {checks.map(({ number, way, xM, yM }, i) => {
        const key = `${i} ${xM}`;
        const colour = number === newest ? "var(--water)" : "var(--amber)";
        return (
          <circle
            key={key}
            cx={at(xM)}
            cy={SIZE - at(yM)}
            r="4.500"
            fill={way === 1 ? colour : "none"}
            stroke={colour}
            strokeWidth="2"
          />
        );
      })}
    </svg>
  );
}
