// The pit list: what is looked at before a match. Some lines look for themselves; own lines are ticked by hand.
import { type NotebookPage, packVolts } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import IconButton from "@mui/material/IconButton";
import { type FormEvent, useEffect, useState } from "react";
import { api } from "../../shared/api.js";
import { Typed } from "../../shared/controls.js";
import { useLink } from "../../shared/link/linkStore.js";
import { checkGyro, describedRobot, heldVersions, type Looked } from "./looking.js";
import { useNotebook } from "./state.js";
import { replace } from "./store.js";

type PitPage = Extract<NotebookPage, { kind: "pit" }>;

export const USUAL_LINES = [
  "Screws of the wheels are tight",
  "Cables are clear of the wheels",
  "The pack is charged and strapped down",
  "The robot rested for 5 s before the gyro is set to zero",
  "The right attachment is on",
] as const;

/** Robots whose newest calibration is older than their newest version. */
function useStale(): readonly string[] | null {
  const project = useNotebook((state) => state.project);
  const [stale, setStale] = useState<readonly string[] | null>(null);
  useEffect(() => {
    let here = true;
    const robots = project.filter(({ kind }) => kind === "robot");
    void Promise.all(
      robots.map(async ({ id, name, changedAt }) => {
        const found = await api.calibrations(id);
        const newest = found.ok ? found.value.calibrations[0]?.createdAt : undefined;
        if (newest === undefined) return `${name} was never measured`;
        // What a calibration itself puts into the robot comes a moment after it.
        return Date.parse(changedAt) > Date.parse(newest) + 60_000 ? `${name} was changed after it was measured` : null;
      }),
    ).then((list) => here && setStale(list.flatMap((one) => (one === null ? [] : [one]))));
    return () => {
      here = false;
    };
  }, [project]);
  return stale;
}

function Told({ good, words }: Looked) {
  return (
    <li data-good={good ?? "unknown"}>
      <span aria-hidden="true">{good === null ? "?" : good ? "✓" : "!"}</span> {words}
    </li>
  );
}

/** Share of charge under which a pack is not taken into a match. */
const ENOUGH = 0.5;

/** The linked robot's pack, judged by its own cells. */
function Charge({ robot, volts }: { robot: string; volts: number }) {
  const project = useNotebook((state) => state.project);
  const [least, setLeast] = useState<number | null>(null);
  useEffect(() => {
    let here = true;
    void describedRobot(robot, project).then((own) => here && own && setLeast(packVolts(own, ENOUGH)));
    return () => {
      here = false;
    };
  }, [project, robot]);
  const words = `Its pack has ${volts.toFixed(2)} V`;
  if (least === null) return <Told good={null} words={`${words}. No robot called ${robot} is described here.`} />;
  return volts >= least ? (
    <Told good words={`${words}: more than half full`} />
  ) : (
    <Told good={false} words={`${words}, under ${least.toFixed(2)} V: charge it`} />
  );
}

/** Sensors and motors whose plug is out. */
function Answering() {
  const out = useLink((state) => state.state?.unplugged ?? NOTHING);
  if (out.length === 0) return <Told good words="Its sensors and motors answer" />;
  return out.map((part) => (
    <Told key={part} good={false} words={`${part.replaceAll("_", " ")} does not answer: look at its plug`} />
  ));
}
const NOTHING: readonly string[] = [];

/** Which versions are on its shelf. */
function Held() {
  const project = useNotebook((state) => state.project);
  // What is on it changes while the list is open.
  useLink((state) => state.shelf);
  return heldVersions(project).map((one) => <Told key={one.words} {...one} />);
}

function GyroCheck({ robot }: { robot: string }) {
  const project = useNotebook((state) => state.project);
  const busy = useLink((state) => state.state?.doing !== "idle");
  const [looked, setLooked] = useState<Looked | "looking" | null>(null);
  const look = async () => {
    setLooked("looking");
    const own = await describedRobot(robot, project);
    setLooked(own ? await checkGyro(own) : { good: null, words: `No robot called ${robot} is described here` });
  };
  if (looked === "looking") return <Told good={null} words="Looking at the gyro. Do not touch the robot for 6 s." />;
  return (
    <>
      {looked && <Told {...looked} />}
      <li>
        <Button variant="outlined" disabled={busy} onClick={() => void look()}>
          {looked ? "Look at the gyro again" : "Look at the gyro at rest"}
        </Button>
      </li>
    </>
  );
}

/** What the page finds out itself. */
function Checks() {
  const { is, hello, state } = useLink();
  const stale = useStale();
  const linked = is === "linked" && hello !== null;
  const volts = state?.packVolts ?? null;
  return (
    <ul className="pitchecks" aria-label="Looked at by itself">
      <Told
        good={linked ? true : null}
        words={linked ? `${hello.robot} is linked` : "No robot is linked: link one at the top right"}
      />
      {linked && volts !== null && <Charge robot={hello.robot} volts={volts} />}
      {linked && <Answering />}
      {linked && <Held />}
      {linked && <GyroCheck robot={hello.robot} />}
      {stale === null && <Told good={null} words="Looking at calibrations…" />}
      {stale?.length === 0 && <Told good words="Every robot was measured since it was changed" />}
      {stale?.map((words) => (
        <Told key={words} good={false} words={words} />
      ))}
    </ul>
  );
}

export function PitList({ page }: { page: PitPage }) {
  const [typed, setTyped] = useState("");
  const change = (lines: PitPage["lines"], label: string) => replace({ ...page, lines }, label);
  const add = (event: FormEvent) => {
    event.preventDefault();
    if (typed.trim() === "" || page.lines.length >= 100) return;
    change([...page.lines, { text: typed.trim(), done: false }], "adding a line");
    setTyped("");
  };
  const left = page.lines.filter(({ done }) => !done).length;
  return (
    <>
      <h2>{page.title}</h2>
      <h3>By itself</h3>
      <Checks />
      <h3>By hand</h3>
      <ul className="pitlines">
        {page.lines.map((line, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place in the list
          <li key={i}>
            <FormControlLabel
              control={
                <Checkbox
                  checked={line.done}
                  onChange={() => change(page.lines.with(i, { ...line, done: !line.done }), `ticking ${line.text}`)}
                />
              }
              label={line.text}
            />
            <IconButton
              size="small"
              aria-label={`Take out: ${line.text}`}
              onClick={() => change(page.lines.toSpliced(i, 1), `taking out ${line.text}`)}
            >
              ×
            </IconButton>
          </li>
        ))}
      </ul>
      <form onSubmit={add} className="pageacts">
        <Typed
          aria-label="A line of your own"
          placeholder="A line of your own"
          maxLength={200}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button type="submit" variant="outlined" disabled={typed.trim() === ""}>
          Add
        </Button>
        <Button
          onClick={() =>
            change(
              page.lines.map((line) => ({ ...line, done: false })),
              "beginning the list anew",
            )
          }
          disabled={left === page.lines.length}
        >
          Begin anew
        </Button>
        <span role="status">{left === 0 ? "Everything by hand is done." : `${left} left`}</span>
      </form>
    </>
  );
}
