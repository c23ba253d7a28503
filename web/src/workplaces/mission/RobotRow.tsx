// The linked robot in the Mission workplace: what it holds, send, run; and what came of its run beside the plan.

import type { RunSummary } from "@giddy-pebble/core";
import { differenceWords } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useEffect, useState } from "react";
import { calmly } from "../../shared/calm.js";
import { buildStandIn, cancelPut, haltRobot, useLink } from "../../shared/link/linkStore.js";
import { heldNumber } from "../../shared/mission/origin.js";
import { presentHash, runMission, sendMission, whyNotSent } from "../../shared/mission/robotRun.js";
import { useMission } from "../../shared/mission/state.js";
import { Panel } from "../../shared/Panel.js";
import { linkTo } from "../../shared/place.js";
import { StepDifferences } from "../../shared/StepDifferences.js";

const useCalmMission = calmly(useMission);

/** Digest of the package on the screen, worked out anew a moment after the text rests. */
function usePresentHash(): string | null {
  const text = useMission((state) => state.history.present.text);
  const robot = useMission((state) => state.robot);
  const field = useMission((state) => state.field);
  const [hash, setHash] = useState<string | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the digest is made of these three
  useEffect(() => {
    let here = true;
    const timer = setTimeout(() => void presentHash().then((found) => here && setHash(found)), 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [text, robot, field]);
  return hash;
}

/** What the robot holds of the open mission, in words. */
function useHeld(): { words: string; same: boolean } {
  const name = useMission((state) => state.open?.name ?? "");
  const entry = useLink((state) => state.shelf.find((held) => held.name === name));
  const robot = useLink((state) => state.hello?.robot ?? "the robot");
  const hash = usePresentHash();
  if (!entry) return { words: `${robot} does not hold this mission yet`, same: false };
  const number = heldNumber(entry.origin);
  const version = number === null ? entry.label : `version ${number}`;
  if (entry.sha256 === hash) return { words: `${robot} holds ${version}, the one on the screen`, same: true };
  return { words: `${robot} still holds ${version}`, same: false };
}

/** Without a minus before a zero. */
function whole(value: number): string {
  return (Math.round(value) + 0).toFixed(0);
}

export function RobotRow() {
  const is = useLink((state) => state.is);
  return is === "linked" ? <LinkedRow /> : null;
}

function LinkedRow() {
  const robot = useLink((state) => state.hello?.robot ?? "robot");
  const doing = useLink((state) => state.state?.doing ?? "idle");
  const sending = useMission((state) => state.sending);
  const putting = useLink((state) => state.putting);
  const live = useMission((state) => state.live !== null);
  const held = useHeld();
  const outdated = useLink((state) => state.outdated);
  const why = useMission(() => whyNotSent());
  if (live || doing === "running") {
    return (
      <section className="robotrow" aria-label="Robot">
        <Button variant="contained" color="error" onClick={() => haltRobot()} title="Esc">
          Halt {robot}
        </Button>
        <span role="status">{robot} runs</span>
        <LiveReadings />
      </section>
    );
  }
  return (
    <section className="robotrow" aria-label="Robot">
      <Button
        variant="contained"
        disabled={why !== null || sending !== null || doing !== "idle"}
        onClick={() => void runMission()}
      >
        Run on {robot}
      </Button>
      <Button
        variant="outlined"
        disabled={why !== null || sending !== null || held.same}
        onClick={() => void sendMission()}
      >
        Send
      </Button>
      <Button variant="outlined" onClick={() => useMission.setState({ panel: "board" })}>
        Put on a board
      </Button>
      {putting ? (
        <>
          <span role="status">
            {putting.words}
            {putting.share === null ? "…" : <span className="mono"> {Math.round(putting.share * 100)} %</span>}
          </span>
          <Button onClick={cancelPut}>Cancel</Button>
        </>
      ) : sending !== null ? (
        <span role="status">
          Sending <span className="mono">{Math.round(sending * 100)} %</span>
        </span>
      ) : (
        <span className={held.same ? "quiet" : "amberwords"}>{why ?? held.words}</span>
      )}
      {outdated === robot && (
        <Button variant="outlined" onClick={() => void rebuild(robot)}>
          Build {robot} again from its drawing
        </Button>
      )}
    </section>
  );
}

function LiveReadings() {
  const readings = useCalmMission((state) => state.live?.readings ?? null);
  if (!readings) return null;
  return (
    <span className="mono quiet">
      {(readings.tick / 100).toFixed(1)} s · {whole(((readings.leftMS + readings.rightMS) / 2) * 100)} cm/s ·{" "}
      {whole((readings.headingRad * 180) / Math.PI)} deg · {readings.packVolts.toFixed(2)} V
      {readings.packAmps !== null && ` · ${readings.packAmps.toFixed(2)} A`}
    </span>
  );
}

async function rebuild(robot: string): Promise<void> {
  const failed = await buildStandIn(robot);
  if (failed !== null) useMission.setState({ message: failed });
}

/** What the robot keeps for its next run, and the choice to rehearse with it. */
function Memory({ kept }: { kept: RunSummary["remembered"] }) {
  const from = useMission((state) => state.fromMemory);
  if (kept.length === 0) return null;
  return (
    <>
      <p>It remembers {kept.map(({ name, words }) => `${name} = ${words}`).join(", ")} for its next run.</p>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={from}
            onChange={(event) => useMission.setState({ fromMemory: event.target.checked })}
          />
        }
        label="Rehearse with what it remembers"
      />
    </>
  );
}

export function RobotPanel() {
  const result = useMission((state) => state.robotResult);
  const close = () => useMission.setState({ panel: "none" });
  if (!result) return null;
  const { robot, summary, difference, tape, judged } = result;
  return (
    <Panel title={`${robot}'s run`} label="Run of the robot" close={close}>
      <p>
        {summary.success
          ? `It finished in ${(summary.durationMs / 1000).toFixed(1)} s${
              judged?.inside
                ? `, and the tape finds it inside "${judged.zone}"`
                : useMission.getState().mission.goal
                  ? ", and by its own count met the goal"
                  : ""
            }.`
          : `It did not work: ${summary.reason}.`}
      </p>
      <Memory kept={summary.remembered ?? []} />
      <h3>Against the plan</h3>
      {difference ? (
        <>
          <p>
            By its own count it ended <strong>{difference.end ? differenceWords(difference.end) : "unknown"}</strong>
            {difference.end && differenceWords(difference.end) === "the same"
              ? " as planned."
              : " of where the plan ends."}
          </p>
          {tape?.fromPlan && (
            <p>
              The tape finds it <strong>{differenceWords(tape.fromPlan)}</strong> of the plan&rsquo;s end.
            </p>
          )}
          {tape?.fromReckoned && Math.hypot(tape.fromReckoned.alongM, tape.fromReckoned.asideM) > 0.012 && (
            <p className="amberwords">
              It does not know that: its wheels or its gyro tell it otherwise.{" "}
              <a href={linkTo("/calibrate")}>Calibrate</a> narrows this.
            </p>
          )}
          {difference.missing.length > 0 && <p>Not in both: {difference.missing.slice(0, 3).join("; ")}.</p>}
          <StepDifferences difference={difference} same="Every step went as planned, as far as the robot can tell." />
        </>
      ) : (
        <p>There was no whole plan of this text to compare with.</p>
      )}
    </Panel>
  );
}
