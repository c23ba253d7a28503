// The tuner's map: time and losses of a step that follows a line, by speed and gain. A cell pressed shows its numbers
// and can be used.
import { type LineCell, type LineSetting, type LineStep, plainDigits } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useState } from "react";
import { Bar, Pick } from "../../shared/controls.js";
import { useMission } from "../../shared/mission/state.js";
import { cancelTuning, isFresh, type Tuning, takeSetting, tune, useTuning } from "./tuning.js";

const RUNS = [4, 10, 20];

function settingWords({ speedMS, gain }: LineSetting): string {
  return `${plainDigits(speedMS * 100, 1)} cm/s, gain ${plainDigits(gain * 100, 0)} %`;
}

function cellWords(cell: LineCell): string {
  const losses = cell.losses > 0 ? `, astray ${plainDigits(cell.losses, 1)} times a run` : "";
  const error = cell.rmsM === null ? "" : `, off by ${plainDigits(cell.rmsM * 1000, 1)} mm`;
  return `${cell.held} of ${cell.runs} held the line, ${(cell.ms / 1000).toFixed(1)} s${losses}${error}`;
}

export function LineTuner({ step }: { step: LineStep }) {
  const tuning = useTuning((state) => state.tuning);
  const text = useMission((state) => state.history.present.text);
  const ready = useMission((state) => state.prepared?.program != null);
  const [runs, setRuns] = useState(4);
  const mine = tuning && tuning.line === step.line && (tuning.running || isFresh(tuning, text)) ? tuning : null;
  return (
    <section className="tuner" aria-label="Line tuner">
      <h3>Speed and gain</h3>
      {!mine && (
        <p className="quiet">
          Tries this step slower and faster, and with softer and stronger turns. Says what is quickest and still holds.
        </p>
      )}
      {mine && <LineMap tuning={mine} />}
      {mine?.running ? (
        <div className="progress">
          <Bar share={mine.done / mine.all} label="Rehearsals done" />
          <span className="mono" role="status">
            {mine.done} of {mine.all}
          </span>
          <Button size="small" onClick={cancelTuning}>
            Cancel
          </Button>
        </div>
      ) : (
        <p className="row">
          <Button size="small" variant="outlined" disabled={!ready} onClick={() => tune(step.line, runs)}>
            {mine ? "Tune again" : "Tune"}
          </Button>
          <Pick aria-label="Rehearsals for each" value={runs} onChange={(event) => setRuns(Number(event.target.value))}>
            {RUNS.map((count) => (
              <option key={count} value={count}>
                {count} × each
              </option>
            ))}
          </Pick>
        </p>
      )}
    </section>
  );
}

function LineMap({ tuning }: { tuning: Tuning }) {
  const [chosen, setChosen] = useState<LineSetting | null>(null);
  const { grid, cells, proof, now } = tuning;
  const filled = cells.flat().filter((cell) => cell !== null);
  const best = proof?.best ?? null;
  const is = (cell: LineSetting | null, other: LineSetting | null) =>
    cell !== null && other !== null && cell.speedMS === other.speedMS && cell.gain === other.gain;
  const picked = filled.find((cell) => is(cell, chosen)) ?? null;
  const speeds = grid[0] ?? [];
  return (
    <>
      {filled.length > 0 && (
        <div className="linemap" style={{ gridTemplateColumns: `auto repeat(${speeds.length}, minmax(0, 1fr))` }}>
          <span className="axis">cm/s</span>
          {speeds.map(({ speedMS }) => (
            <span key={`at ${speedMS}`} className="axis mono">
              {plainDigits(speedMS * 100, 1)}
            </span>
          ))}
          {grid.map((row, r) => [
            <span key={`gain ${row[0]?.gain}`} className="axis mono">
              {plainDigits((row[0]?.gain ?? 1) * 100, 0)} %
            </span>,
            ...row.map((setting, c) => {
              const cell = cells[r]?.[c];
              return cell ? (
                <button
                  key={settingWords(setting)}
                  type="button"
                  className={`mapcell mono${is(cell, now) ? " now" : ""}${is(cell, best) ? " best" : ""}`}
                  data-held={cell.held === cell.runs ? "all" : cell.held > 0 ? "some" : "none"}
                  aria-pressed={is(cell, chosen)}
                  aria-label={`${settingWords(cell)}: ${cellWords(cell)}${is(cell, now) ? ", as it is now" : ""}${is(cell, best) ? ", the best" : ""}`}
                  onClick={() => setChosen(cell)}
                >
                  {cell.held === cell.runs ? (cell.ms / 1000).toFixed(1) : `${cell.held}/${cell.runs}`}
                </button>
              ) : (
                <span key={settingWords(setting)} className="mapcell" />
              );
            }),
          ])}
        </div>
      )}
      {filled.length > 0 && (
        <p className="quiet small">
          Seconds where every rehearsal held the line, else how many did. Framed: as it is now. Ringed: the best. Rows:
          gain.
        </p>
      )}
      {picked && <Offer words={`${settingWords(picked)}: ${cellWords(picked)}.`} setting={picked} tuning={tuning} />}
      {proof && best && (
        <div role="status">
          {is(best, now) ? (
            <p>What the step says now is the best of these: {cellWords(proof.now)}.</p>
          ) : (
            <Offer
              words={`Best: ${settingWords(best)}. Tried ${best.runs} times more: ${cellWords(best)}. As it is now: ${cellWords(proof.now)}.`}
              setting={best}
              tuning={tuning}
            />
          )}
        </div>
      )}
    </>
  );
}

function Offer({ words, setting, tuning }: { words: string; setting: LineSetting; tuning: Tuning }) {
  return (
    <p className="offer">
      {words}{" "}
      <Button size="small" variant="outlined" disabled={tuning.running} onClick={() => takeSetting(setting)}>
        Use {settingWords(setting)}
      </Button>
    </p>
  );
}
