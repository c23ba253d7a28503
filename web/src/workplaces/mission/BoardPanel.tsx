// Put on a board: the mission as source for a real board, step by step.
// It says what the board needs, and what it cannot do.
import { avrPins, boardRobot, type Program, type Robot, wiringWords } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { strToU8, zipSync } from "fflate";
import { useEffect, useMemo, useState } from "react";
import { api, type BoardExport, type BoardTarget } from "../../shared/api.js";
import { Pick } from "../../shared/controls.js";
import { boardPlace, useLink } from "../../shared/link/linkStore.js";
import { sendMission, whyNotSent } from "../../shared/mission/robotRun.js";
import { useMission } from "../../shared/mission/state.js";
import { selectLine } from "../../shared/mission/store.js";
import { Panel } from "../../shared/Panel.js";

const TARGETS: readonly {
  readonly id: BoardTarget;
  readonly words: string;
  readonly mission: string;
  readonly mark: string;
}[] = [
  { id: "micropython", words: "MicroPython, 1.20 or newer", mission: "mission.py", mark: "#" },
  { id: "avr", words: "C++ for ATmega328P", mission: "mission.cpp", mark: "//" },
  { id: "cpp", words: "C++14, any board with a compiler", mission: "mission.cpp", mark: "//" },
];
/** The text rests this long before it is written anew, ms. */
const REST_MS = 250;

/** What came of writing the mission out. */
type Made =
  | { readonly is: "waiting" }
  | { readonly is: "failed"; readonly why: string }
  | ({ readonly is: "made" } & BoardExport);

function useWritten(target: BoardTarget, title: string, program: Program | null, robot: Robot | null): Made {
  const [made, setMade] = useState<Made>({ is: "waiting" });
  useEffect(() => {
    if (!program || !robot) return;
    setMade({ is: "waiting" });
    let here = true;
    const timer = setTimeout(async () => {
      const answer = await api.exportBoard({ target, title, program, robot });
      if (here) setMade(answer.ok ? { is: "made", ...answer.value } : { is: "failed", why: answer.message });
    }, REST_MS);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [target, title, program, robot]);
  return made;
}

export function BoardPanel() {
  const program = useMission((state) => state.prepared?.program ?? null);
  const robot = useMission((state) => state.robot?.document ?? null);
  const title = useMission((state) => state.open?.name ?? "Mission");
  const [target, setTarget] = useState<BoardTarget>("micropython");
  const made = useWritten(target, title, program, robot);
  return (
    <Panel title="Put on a board" label="Put on a board" close={() => useMission.setState({ panel: "none" })}>
      <div className="boardpanel">
        <p>The mission leaves as source that you can read. The robot keeps what it was calibrated to.</p>
        <label className="boardtarget">
          Language
          <Pick value={target} onChange={(event) => setTarget(event.target.value as BoardTarget)}>
            {TARGETS.map(({ id, words }) => (
              <option key={id} value={id}>
                {words}
              </option>
            ))}
          </Pick>
        </label>
        {program === null && <p className="amberwords">The mission has problems to fix first.</p>}
        {program !== null && made.is === "waiting" && (
          <p className="quiet" role="status">
            {target === "avr" ? "Writing and compiling it. This takes some seconds…" : "Writing it…"}
          </p>
        )}
        {made.is === "failed" && <p className="amberwords">{made.why}</p>}
        {program !== null && made.is === "made" && (
          <Written made={made} target={target} title={title} program={program} robot={robot} />
        )}
      </div>
    </Panel>
  );
}

function Written({
  made,
  target,
  title,
  program,
  robot,
}: {
  made: BoardExport;
  target: BoardTarget;
  title: string;
  program: Program | null;
  robot: Robot | null;
}) {
  const { files, problems } = made;
  const letters = files.reduce((sum, { text }) => sum + text.length, 0);
  const own = TARGETS.find(({ id }) => id === target) ?? TARGETS[0];
  const source = files.find(({ name }) => name === own?.mission)?.text ?? "";
  const wiring = useMemo(() => {
    if (!robot) return [];
    return target === "avr" && program ? avrPins(program, boardRobot(robot)).wires : wiringWords(robot);
  }, [robot, target, program]);
  return (
    <>
      {problems.map(({ line, step, message }) => (
        <p key={`${line} ${message}`} className="amberwords">
          {/* What the whole mission is too large for has no line. */}
          {step !== "" && (
            <Button size="small" onClick={() => selectLine(line - 1)}>
              Line {line}
            </Button>
          )}{" "}
          {message}
        </p>
      ))}
      <p className="boardsave">
        <Button variant="contained" disabled={problems.length > 0} onClick={() => save(title, target, files)}>
          Save as .zip
        </Button>
        <OntoBoard problems={problems.length} />
        <span className="quiet">
          {files.length} files, {Math.ceil(letters / 1024)} KB. README.md says what to do with them.
        </span>
      </p>
      {target === "avr" && made.chip && made.link !== "live" && <p className="amberwords">{LINK_WORDS[made.link]}</p>}
      {made.missing !== null && <p className="amberwords">It was not compiled. {made.missing}</p>}
      {made.chip && <Sizes chip={made.chip} />}
      <h3>What it is wired to</h3>
      {wiring.length === 0 ? (
        <p className="quiet">The robot has no wiring yet. Draw it in Robot.</p>
      ) : (
        <ul className="boardwires">
          {wiring.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      <h3>{own?.mission}</h3>
      <Source text={source} mark={own?.mark ?? "#"} steps={made.steps} />
    </>
  );
}

/** What a mission that fills the chip has to do without. */
const LINK_WORDS = {
  bare: "The chip has no room for live readings beside this mission. It can be run and halted from here.",
  none: "The chip has no room for the link beside this mission. It begins by itself a second after a reset.",
} as const;

/** Writes it into the board that is linked. */
function OntoBoard({ problems }: { problems: number }) {
  const robot = useLink((state) => state.hello?.robot ?? "");
  const isBoard = useLink((state) => state.is === "linked" && boardPlace(state.wanted) !== null);
  const putting = useLink((state) => state.putting);
  const why = useMission(() => whyNotSent());
  if (!isBoard) return <span className="quiet">Link a board at the top right to write it from here.</span>;
  return (
    <Button
      variant="outlined"
      disabled={why !== null || problems > 0 || putting !== null}
      title={why ?? ""}
      onClick={() => void sendMission()}
    >
      Write it into {robot}&rsquo;s board
    </Button>
  );
}

/** How much of the chip it takes, as bars. */
function Sizes({ chip }: { chip: NonNullable<BoardExport["chip"]> }) {
  const rows = [
    { words: "Program", bytes: chip.flashBytes, most: chip.flashMost },
    { words: "Values", bytes: chip.ramBytes, most: chip.ramMost },
  ];
  return (
    <dl className="chipsizes" aria-label={`Room on ${chip.name}`}>
      {rows.map(({ words, bytes, most }) => (
        <div key={words} className={bytes > most ? "over" : undefined}>
          <dt>{words}</dt>
          <dd>
            <LinearProgress variant="determinate" value={Math.min(100, (100 * bytes) / most)} aria-label={words} />
            {bytes.toLocaleString("en")} of {most.toLocaleString("en")} bytes
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** The mission's source; the comment of a step chooses the step. */
function Source({ text, mark, steps }: { text: string; mark: string; steps: BoardExport["steps"] }) {
  const lines = useMemo(() => {
    const byNumber = new Map(steps.map((step) => [step.step, step]));
    return text.split("\n").map((words, i) => {
      const comment = words.trim();
      const number = comment.startsWith(`${mark} `) ? (comment.slice(mark.length + 1).split("  ")[0] ?? "") : "";
      return { key: i, words, step: byNumber.get(number) ?? null };
    });
  }, [text, mark, steps]);
  return (
    <pre className="boardsource">
      {lines.map(({ key, words, step }) =>
        step ? (
          <button
            key={key}
            type="button"
            className="plain"
            title={`Choose step ${step.step}`}
            onClick={() => selectLine(step.line - 1)}
          >
            {`${words}\n`}
          </button>
        ) : (
          <span key={key}>{`${words}\n`}</span>
        ),
      )}
    </pre>
  );
}

function save(title: string, target: BoardTarget, files: BoardExport["files"]): void {
  const zip = zipSync(Object.fromEntries(files.map(({ name, text }) => [name, strToU8(text)] as const)));
  const address = URL.createObjectURL(new Blob([zip as Uint8Array<ArrayBuffer>], { type: "application/zip" }));
  const link = document.createElement("a");
  link.href = address;
  link.download = `${title.replace(/[^A-Za-z0-9]+/g, "-").toLowerCase() || "mission"}-${target}.zip`;
  link.click();
  URL.revokeObjectURL(address);
}
