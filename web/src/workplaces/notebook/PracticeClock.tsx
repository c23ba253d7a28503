// The practice clock: large, by keys or touch. Missions are ticked off as they work or fail; the round is kept.
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useCallback, useEffect, useRef, useState } from "react";
import type { MatchPage } from "./MatchSheet.js";
import { useNotebook } from "./state.js";
import { keepRound } from "./store.js";

interface Mark {
  readonly name: string;
  readonly atS: number;
  readonly worked: boolean;
}

function clockWords(leftS: number): string {
  const whole = Math.max(0, Math.ceil(leftS));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

export function PracticeClock({ page }: { page: MatchPage }) {
  const [begun, setBegun] = useState<number | null>(null);
  const [now, setNow] = useState(0);
  const [marks, setMarks] = useState<readonly Mark[]>([]);
  const close = () => useNotebook.setState({ practising: null });
  const elapsed = begun === null ? 0 : Math.min(page.roundS, (now - begun) / 1000);
  const over = begun !== null && elapsed >= page.roundS;
  const done = new Set(marks.filter(({ worked }) => worked).map(({ name }) => name));
  const points = page.entries.reduce((sum, { name, points: own }) => sum + (done.has(name) ? own : 0), 0);

  useEffect(() => {
    if (begun === null || over) return;
    const timer = setInterval(() => setNow(performance.now()), 100);
    return () => clearInterval(timer);
  }, [begun, over]);

  const begin = useCallback(() => {
    const at = performance.now();
    setBegun(at);
    setNow(at);
    setMarks([]);
  }, []);
  const mark = useCallback(
    (name: string, worked: boolean) => {
      if (begun === null || over) return;
      const atS = Math.round((performance.now() - begun) / 100) / 10;
      setMarks((before) => [...before, { name, atS: Math.min(page.roundS, atS), worked }]);
    },
    [begun, over, page.roundS],
  );
  const keep = () => {
    close();
    keepRound(page, [...marks], points, new Date(Date.now() - (begun === null ? 0 : performance.now() - begun)));
  };

  // Space begins; a digit ticks its mission off, with Shift as failed; U takes the last mark back.
  const keys = useRef<(event: KeyboardEvent) => void>(() => {});
  keys.current = (event) => {
    if (event.code === "Space" && begun === null) begin();
    else if (/^Digit[1-9]$/.test(event.code)) {
      const entry = page.entries[Number(event.code.slice(5)) - 1];
      if (entry) mark(entry.name, !event.shiftKey);
    } else if (event.key === "u") setMarks((before) => before.slice(0, -1));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  useEffect(() => {
    const heard = (event: KeyboardEvent) => keys.current(event);
    window.addEventListener("keydown", heard, { capture: true });
    return () => window.removeEventListener("keydown", heard, { capture: true });
  }, []);

  return (
    <Dialog open onClose={close} fullScreen slotProps={{ paper: { "aria-label": "Practice clock" } as object }}>
      <div className="practice">
        <p className="practiceclock mono" role="timer">
          {clockWords(page.roundS - elapsed)}
        </p>
        <p className="practicepoints">{points} points</p>
        <ul>
          {page.entries.map(({ name, points: own }, i) => {
            const last = marks.findLast((one) => one.name === name);
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: a mission may be on a sheet twice
              <li key={i} data-state={last ? (last.worked ? "worked" : "failed") : "open"}>
                <span>
                  {i + 1}. {name}, {own} points
                  {last && ` · ${last.worked ? "worked" : "failed"} at ${last.atS.toFixed(0)} s`}
                </span>
                <Button variant="contained" disabled={begun === null || over} onClick={() => mark(name, true)}>
                  Worked
                </Button>
                <Button variant="outlined" disabled={begun === null || over} onClick={() => mark(name, false)}>
                  Failed
                </Button>
              </li>
            );
          })}
        </ul>
        <p className="quiet">Space starts. 1 to 9: worked. Shift and 1 to 9: failed. U takes the last mark back.</p>
        <p className="pageacts">
          {begun === null ? (
            <Button variant="contained" size="large" onClick={begin}>
              Start
            </Button>
          ) : (
            <Button variant="contained" size="large" onClick={keep}>
              {over ? "Keep this round" : "Stop and keep"}
            </Button>
          )}
          <Button size="large" onClick={close}>
            Leave without keeping
          </Button>
        </p>
      </div>
    </Dialog>
  );
}
