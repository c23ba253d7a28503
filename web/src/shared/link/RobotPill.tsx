// The linked robot at the end of the top bar, and the panel behind it: find, link, battery, shelf, hands and faults.

import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { Fold } from "../Fold.js";
import { Panel } from "../Panel.js";
import { Toast } from "../Toast.js";
import {
  ask,
  boardPlace,
  buildStandIn,
  findRobots,
  haltRobot,
  link,
  linkBench,
  linkCable,
  NO_SERIAL,
  resumeLink,
  unlink,
  useLink,
} from "./linkStore.js";
import { type BoardKind, pageSerial } from "./serialPort.js";
import "./link.css";
import { Pick } from "../controls.js";

/** Esc stops the robot from anywhere, before anything else that Esc does. */
function useEscape(): void {
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || !haltRobot()) return;
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("keydown", keys, { capture: true });
    return () => window.removeEventListener("keydown", keys, { capture: true });
  }, []);
}

/** @param robot - name of the robot the page is about, if it is about one */
export function RobotPill({ robot }: { robot: string | null }) {
  const { is, hello, state, panel, wanted } = useLink();
  useEscape();
  useEffect(resumeLink, []);
  const name = hello?.robot ?? robot ?? "No robot";
  const doing = state?.doing === "running" ? "running" : state?.doing === "driven" ? "driven by hand" : null;
  const words = {
    none: "not linked",
    linking: "linking…",
    lost: "link lost",
    linked: `${isOf(wanted, hello?.simulated ?? false)} · ${doing ?? packWords(state?.packVolts ?? 0)}`,
  }[is];
  return (
    <>
      <button
        type="button"
        className={`robotpill ${is}`}
        aria-expanded={panel}
        aria-label={`Robot: ${name}, ${words}`}
        onClick={() => useLink.setState({ panel: !panel })}
      >
        <span className="dot" aria-hidden="true" />
        <span>
          {name} · <span className="mono">{words}</span>
        </span>
      </button>
      {doing && (
        <Button className="haltbutton" variant="contained" color="error" onClick={() => haltRobot()} title="Esc">
          Halt
        </Button>
      )}
      {panel && <RobotPanel drawn={robot} />}
      <LinkToast />
    </>
  );
}

/** What is linked, in a word. */
function isOf(wanted: string | null, simulated: boolean): string {
  return boardPlace(wanted) ? "board" : simulated ? "simulated" : "robot";
}

/** A board that holds no program of ours tells nothing of its pack. */
function packWords(volts: number): string {
  return volts > 0 ? `${volts.toFixed(1)} V` : "empty";
}

function LinkToast() {
  const message = useLink((state) => state.message);
  return <Toast message={message} clear={() => useLink.setState({ message: null })} />;
}

function RobotPanel({ drawn }: { drawn: string | null }) {
  const { is, hello, found } = useLink();
  useEffect(() => void findRobots(), []);
  const close = () => useLink.setState({ panel: false });
  return (
    <div className="robotpanel">
      <Panel title={hello ? hello.robot : "Robots"} label="Robot" close={close}>
        {is === "linked" ? <Linked /> : <Finding drawn={drawn} />}
        {is !== "linked" && found === null && <p className="quiet">Looking for robots…</p>}
      </Panel>
    </div>
  );
}

function Finding({ drawn }: { drawn: string | null }) {
  const { found, is, wanted } = useLink();
  const missing = drawn !== null && found !== null && !found.some(({ name }) => name === drawn);
  return (
    <>
      {is !== "none" && (
        <p role="status">
          {is === "lost" ? "The link was lost; it is tried again by itself." : `Linking ${nameOf(wanted)}…`}{" "}
          <Button onClick={unlink}>Give up</Button>
        </p>
      )}
      {found && found.length > 0 && (
        <p className="quiet">Simulated robots on this computer. Link one to send it missions.</p>
      )}
      <ul className="robotlist">
        {(found ?? []).map((robot) => (
          <li key={robot.id}>
            <span>
              <strong>{robot.name}</strong>
              <br />
              <span className="quiet">
                {robot.simulated ? "simulated" : "robot"} · {robot.doing === "idle" ? "ready" : robot.doing} ·{" "}
                <span className="mono">{robot.packVolts.toFixed(1)} V</span>
              </span>
            </span>
            <Button
              variant={robot.name === drawn ? "contained" : "outlined"}
              aria-label={`Link ${robot.name}`}
              onClick={() => link(robot.id)}
            >
              Link
            </Button>
          </li>
        ))}
      </ul>
      {found?.length === 0 && (
        <p>No robot answers. They are started with the application; try again in a few seconds.</p>
      )}
      {missing && <BuildOne name={drawn} />}
      <Button onClick={() => void findRobots()}>Look again</Button>
      {drawn !== null && <BoardChoice robot={drawn} built={found !== null && !missing} />}
    </>
  );
}

function nameOf(wanted: string | null): string {
  const place = boardPlace(wanted);
  return place ? `the board of ${place.robot}` : (wanted ?? "");
}

const KINDS: readonly { readonly kind: BoardKind; readonly words: string }[] = [
  { kind: "avr", words: "ATmega328P" },
  { kind: "micropython", words: "MicroPython" },
];

/** Links a board: by its cable, or one that is emulated on this computer. */
function BoardChoice({ robot, built }: { robot: string; built: boolean }) {
  const [kind, setKind] = useState<BoardKind>("avr");
  const [says, setSays] = useState<string | null>(null);
  const noSerial = pageSerial() === null;
  return (
    <section className="boardchoice" aria-label="Boards">
      <h3>Boards</h3>
      <p className="quiet">A board holds one mission. Sending a mission writes it into the board.</p>
      <div className="boardlinks">
        <label>
          <span className="sr">Kind of board</span>
          <Pick value={kind} onChange={(event) => setKind(event.target.value as BoardKind)}>
            {KINDS.map(({ kind: id, words }) => (
              <option key={id} value={id}>
                {words}
              </option>
            ))}
          </Pick>
        </label>
        <Button
          variant="outlined"
          disabled={noSerial}
          title={noSerial ? NO_SERIAL : ""}
          onClick={async () => setSays(await linkCable(kind, robot))}
        >
          Link by cable…
        </Button>
        <Button
          variant="outlined"
          disabled={!built}
          title={built ? "" : `Build a simulated robot of ${robot} first.`}
          onClick={() => linkBench(kind, robot)}
        >
          Link an emulated board
        </Button>
      </div>
      {noSerial && <p className="quiet">{NO_SERIAL}</p>}
      {says && <p role="alert">{says}</p>}
    </section>
  );
}

/** Makes a stand-in of a drawing: one that has none yet, or one that was changed since its stand-in was built. */
function BuildOne({ name, again = false }: { name: string; again?: boolean }) {
  const [says, setSays] = useState<string | null>(null);
  const build = async () => {
    setSays("Building…");
    setSays(await buildStandIn(name));
  };
  return (
    <p>
      {again ? "Its drawing was changed since?" : `${name} has no simulated robot yet.`}{" "}
      <Button onClick={() => void build()}>
        {again ? `Build ${name} again from its drawing` : `Build a simulated robot of ${name}`}
      </Button>
      {says && <span role="alert"> {says}</span>}
    </p>
  );
}

function Linked() {
  const { hello, state, shelf, wanted } = useLink();
  const [charge, setCharge] = useState("0.9");
  if (!hello || !state) return null;
  const doing = {
    idle: "It stands and waits.",
    running: `It runs ${state.mission ?? "a mission"}.`,
    driven: "It is driven by hand.",
    restarting: "Its board restarts.",
  }[state.doing];
  const isBoard = boardPlace(wanted) !== null;
  return (
    <>
      <p role="status">
        {doing} {state.driver === "other" && "Somebody else is driving; you watch."}
        {state.doing === "idle" && state.why !== "" && ` Last time ${state.why}.`}
      </p>
      <dl className="robotfacts">
        <dt>Battery</dt>
        <dd className="mono">{state.packVolts.toFixed(2)} V</dd>
        {state.windingC !== null && (
          <>
            <dt>Warmest motor</dt>
            <dd className="mono">{state.windingC.toFixed(0)} deg C</dd>
          </>
        )}
        {state.field !== "" && (
          <>
            <dt>Stands on</dt>
            <dd>
              {state.field}, put down at {state.begin.name}
            </dd>
          </>
        )}
        {state.display !== "" && (
          <>
            <dt>Display</dt>
            <dd className="mono">{state.display}</dd>
          </>
        )}
        {state.light !== "" && (
          <>
            <dt>Light</dt>
            <dd>{state.light}</dd>
          </>
        )}
      </dl>
      {hello.buttons.length > 0 && (
        <p className="robotbuttons">
          {hello.buttons.map((button) => (
            <Button
              key={button}
              variant="outlined"
              onPointerDown={() => void ask({ kind: "press", button, down: true })}
              onPointerUp={() => void ask({ kind: "press", button, down: false })}
              onPointerLeave={(event) => event.buttons > 0 && void ask({ kind: "press", button, down: false })}
              onKeyDown={(event) => event.key === " " && void ask({ kind: "press", button, down: true })}
              onKeyUp={(event) => event.key === " " && void ask({ kind: "press", button, down: false })}
            >
              Press {button}
            </Button>
          ))}
        </p>
      )}
      {isBoard && (
        <p>
          {hello.simulated
            ? "A board that is emulated on this computer. Its lines move a simulated robot."
            : "A board on its cable. Put the robot down and read the tape yourself."}
        </p>
      )}
      <h3>
        Shelf{" "}
        <span className="quiet mono">
          {shelf.length} of {hello.room}
        </span>
      </h3>
      {shelf.length === 0 && <p>Nothing on its shelf yet. Send it the open mission from the Mission workplace.</p>}
      <ul className="shelflist">
        {shelf.map((entry) => (
          <li key={entry.name}>
            <span>
              {entry.name}
              <br />
              <span className="quiet">{entry.label}</span>
            </span>
            {!isBoard && (
              <Button
                aria-label={`Take ${entry.name} off the shelf`}
                onClick={() => void ask({ kind: "remove", name: entry.name })}
              >
                Take off
              </Button>
            )}
          </li>
        ))}
      </ul>
      {hello.simulated && (
        <Fold summary="Things that go wrong">
          <p className="quiet">
            A simulated robot can be given a real robot's bad days, to see what a mission does then.
          </p>
          <p className="faults">
            <Button variant="outlined" onClick={() => void ask({ kind: "fault", fault: "link-drops", part: "" })}>
              Drop the link
            </Button>
            {!isBoard && (
              <Button variant="outlined" onClick={() => void ask({ kind: "fault", fault: "late-packets", part: "" })}>
                Late packets
              </Button>
            )}
            <Button variant="outlined" onClick={() => void ask({ kind: "fault", fault: "restart", part: "" })}>
              Restart the board
            </Button>
            <label>
              <span className="sr">Pull a plug</span>
              <Pick
                value=""
                onChange={(event) => void ask({ kind: "fault", fault: "unplugged", part: event.target.value })}
              >
                <option value="">Pull a plug…</option>
                {hello.plugs.map((plug) => (
                  <option key={plug}>{plug}</option>
                ))}
              </Pick>
            </label>
            <Button variant="outlined" onClick={() => void ask({ kind: "fault", fault: "none", part: "" })}>
              All in order
            </Button>
          </p>
          {state.unplugged.length > 0 && <p>Unplugged: {state.unplugged.join(", ")}.</p>}
          <p>
            <label>
              Put in a pack charged to{" "}
              <Pick value={charge} onChange={(event) => setCharge(event.target.value)}>
                <option value="0.9">90 %</option>
                <option value="0.5">50 %</option>
                <option value="0.2">20 %</option>
                <option value="0.05">5 %</option>
              </Pick>
            </label>{" "}
            <Button onClick={() => void ask({ kind: "pack", charge: Number(charge) })}>Change it</Button>
          </p>
        </Fold>
      )}
      {hello.simulated && !isBoard && <BuildOne name={hello.robot} again />}
      <Button onClick={unlink}>Unlink</Button>
    </>
  );
}
