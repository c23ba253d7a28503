// The left side: how the sticks drive, what buttons and sliders do, and which pad is in use. All of it is the
// mission's text: every change here is a change of it.
import {
  addRemoteLine,
  BUTTONS,
  deleteLine,
  driveKind,
  driveLine,
  linePieces,
  makeDriven,
  plainDigits,
  STICK_MODES,
  type Statement,
  type StickMode,
  type StickShape,
  type StickWord,
  setStick,
  setStickMode,
  statementsOf,
  USUAL_SHAPE,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { type RefObject, useEffect, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { About } from "../../shared/mission/About.js";
import { Pieces } from "../../shared/mission/Pieces.js";
import { useMission } from "../../shared/mission/state.js";
import { dispatch, edit } from "../../shared/mission/store.js";
import { QuantityField } from "../../shared/quantity/QuantityField.js";
import {
  arrowsAreRightStick,
  forgetLayout,
  held,
  KEY_BUTTONS,
  learn,
  STICKS,
  touchButton,
  touched,
  useHands,
} from "./hands.js";
import { ResponseChart, SquareChart } from "./StickCharts.js";

const MODE_WORDS: Readonly<Record<StickMode, string>> = {
  "one stick": "One stick",
  "two sticks": "Two",
  tank: "Tank",
  curvature: "Curve",
};
const SETTINGS: readonly { word: StickWord; label: string; usual: string; unit: string }[] = [
  { word: "dead", label: "Dead zone", usual: "12 %", unit: "%" },
  { word: "curve", label: "Curve", usual: "1.8", unit: "" },
  { word: "at", label: "Ceiling", usual: "30 cm/s", unit: "cm/s" },
  { word: "turning", label: "Turn share", usual: "60 %", unit: "%" },
  { word: "ramp", label: "Slew", usual: "80 cm/s/s", unit: "cm/s/s" },
  { word: "switching", label: "On from", usual: "50 %", unit: "%" },
];

export function Remote() {
  const mission = useMission((state) => state.mission);
  const onOff = useMission((state) => state.robot?.document.board.driver === "on-off");
  const line = driveLine(mission);
  if (!mission.remote)
    return (
      <section className="remote empty">
        <p>
          This mission drives by itself. Give it to a driver, and it gets sticks, buttons and a step that hands over.
        </p>
        <Button
          variant="contained"
          onClick={() => dispatch({ type: "edit", text: makeDriven(mission, onOff), label: "giving it to a driver" })}
        >
          Give it to a driver
        </Button>
      </section>
    );
  return (
    <section className="remote">
      <About />
      {line && <Sticks line={line} onOff={onOff} />}
      <Bindings />
      <Pad />
    </section>
  );
}

/** A setting's value where it is plainly written. */
function written(line: Extract<Statement, { type: "drive" }>, word: StickWord): number | null {
  const value = line.settings.find((setting) => setting.word === word)?.value;
  if (value?.type !== "number") return null;
  return value.unit === "%" ? Number(value.digits) / 100 : Number(value.digits);
}

function Sticks({ line, onOff }: { line: Extract<Statement, { type: "drive" }>; onOff: boolean }) {
  const drive = useMission((state) => state.robot?.document.drive ?? null);
  const car = drive !== null && driveKind(drive).steers;
  // The left stick slides: then the arrow keys are the right one, which turns.
  const slides = drive !== null && driveKind(drive).slides && line.mode === "two sticks";
  const mission = useMission((state) => state.mission);
  useEffect(() => arrowsAreRightStick(line.mode === "tank" || slides), [line.mode, slides]);
  const shape: StickShape = {
    dead: written(line, "dead") ?? USUAL_SHAPE.dead,
    curve: written(line, "curve") ?? USUAL_SHAPE.curve,
    turning: written(line, "turning") ?? USUAL_SHAPE.turning,
  };
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a fieldset cannot be laid out as a row everywhere */}
      <div className="stickmodes" role="group" aria-label="How the sticks drive">
        {STICK_MODES.filter((mode) => !(car && mode === "tank")).map((mode) => (
          <button
            type="button"
            key={mode}
            aria-pressed={mode === line.mode}
            onClick={() => edit(setStickMode(useMission.getState().mission, mode), `driving with ${mode}`)}
          >
            {MODE_WORDS[mode]}
          </button>
        ))}
      </div>
      <div className="stickcharts">
        <ResponseChart
          switching={onOff ? written(line, "switching") : null}
          mode={line.mode}
          shape={shape}
          drag={(word, value) =>
            edit(
              setStick(
                useMission.getState().mission,
                word,
                word === "dead" ? `${plainDigits(value * 100, 0)} %` : plainDigits(value, 1),
              ),
              `dragging the ${word === "dead" ? "dead zone" : "curve"}`,
              undefined,
              `stick/${word}`,
            )
          }
        />
        <SquareChart mode={line.mode} shape={shape} of={car ? "axle" : slides ? "ways" : "wheels"} />
      </div>
      <dl className="sticksettings">
        {SETTINGS.filter(({ word }) => word !== "switching" || onOff).map(({ word, label, usual, unit }) => {
          const setting = line.settings.find((one) => one.word === word);
          return (
            <div key={word}>
              <dt>{label}</dt>
              <dd>
                {!setting ? (
                  <button
                    type="button"
                    className="plain quiet"
                    onClick={() => edit(setStick(mission, word, usual), `setting the ${label.toLowerCase()}`)}
                  >
                    not set
                  </button>
                ) : setting.value.type === "number" ? (
                  <QuantityField
                    digits={setting.value.digits}
                    unit={setting.value.unit || unit}
                    label={label}
                    onChange={(text, how) =>
                      edit(
                        setStick(useMission.getState().mission, word, text),
                        `changing the ${label.toLowerCase()}`,
                        undefined,
                        how === "stepped" ? `stick/${word}` : undefined,
                      )
                    }
                  />
                ) : (
                  <span className="mono">{mission.text.slice(setting.value.start, setting.value.end)}</span>
                )}
              </dd>
            </div>
          );
        })}
      </dl>
    </>
  );
}

/** What letting go of a button does, in words. */
function endWords(line: Extract<Statement, { type: "binding" }>, ceiling: string): string {
  const { how, ending } = line;
  const when = how === "hold" ? "release" : "press again";
  if (line.ceiling) return `${when}: back to ${ceiling}`;
  if (!ending) return `${when}: not said`;
  if (ending.does === "keep") {
    if (line.action?.type === "call") return `${when}: goes on`;
    return how === "tap" ? `${when}: does it again` : `${when}: stays so`;
  }
  if (ending.does === "stop") return `${when}: stops it`;
  return when;
}

/** Lights the caps of buttons that are down, whatever holds them; without React. */
function useLitCaps(list: RefObject<HTMLUListElement | null>): void {
  useEffect(() => {
    let before = 0;
    const light = () => {
      const { buttons } = held.now;
      if (buttons === before) return;
      before = buttons;
      for (const cap of list.current?.querySelectorAll<HTMLElement>("[data-button]") ?? [])
        cap.dataset.down = String((buttons & (1 << Number(cap.dataset.button))) !== 0);
    };
    held.listeners.add(light);
    return () => {
      held.listeners.delete(light);
    };
  }, [list]);
}

function Bindings() {
  const list = useRef<HTMLUListElement>(null);
  useLitCaps(list);
  const mission = useMission((state) => state.mission);
  const problems = useMission((state) => state.problems);
  const [adding, setAdding] = useState<string | null>(null);
  const drive = driveLine(mission);
  const at = drive?.settings.find(({ word }) => word === "at")?.value;
  const ceiling = at ? mission.text.slice(at.start, at.end) : "the usual ceiling";
  const lines = mission.remote ? statementsOf(mission.remote).filter((line) => line.type !== "drive") : [];
  const add = () => {
    if (adding === null) return;
    if (adding.trim() !== "") edit(addRemoteLine(mission, adding.trim()), "binding a button");
    setAdding(null);
  };
  return (
    <>
      <h2>Buttons and sliders</h2>
      <ul className="bindings" ref={list}>
        {lines.map((line) => {
          const trouble = problems.filter((problem) => problem.start >= line.start && problem.start <= line.end);
          const whole = linePieces(mission.text, mission.lines[line.line] as (typeof mission.lines)[number]);
          return (
            <li key={line.line}>
              {line.type === "binding" ? (
                <Cap name={line.control.name} />
              ) : (
                <span className="cap">{whole[1]?.text ?? "?"}</span>
              )}
              <span className="does">
                <span className="words">
                  {line.type === "binding" && <span className="quiet">{line.how}</span>}{" "}
                  <Pieces pieces={whole.slice(2)} />
                </span>
                {line.type === "binding" && <span className="quiet ending">{endWords(line, ceiling)}</span>}
                {line.type === "dial" && <Slider name={line.control.name} />}
                {trouble.map((problem) => (
                  <span className="trouble" key={problem.code} data-severity={problem.severity}>
                    {problem.message}
                  </span>
                ))}
              </span>
              <button
                type="button"
                className="drop"
                aria-label={`Take ${whole[1]?.text ?? "this line"} off`}
                onClick={() => edit(deleteLine(mission, line.line), "taking a binding off")}
              >
                ×
              </button>
            </li>
          );
        })}
      </ul>
      {adding === null ? (
        <button type="button" className="addbinding" onClick={() => setAdding("hold thumb.lower ")}>
          + button or slider
        </button>
      ) : (
        <Typed
          className="editor-in mono"
          autoFocus
          aria-label="A line for a button or slider"
          list="binding-forms"
          value={adding}
          onChange={(event) => setAdding(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") add();
            if (event.key === "Escape") setAdding(null);
          }}
        />
      )}
      <datalist id="binding-forms">
        {bindingForms(mission).map((form) => (
          <option key={form} value={form} />
        ))}
      </datalist>
    </>
  );
}

/** Lines for this robot's own parts, for buttons that are still free. */
function bindingForms(mission: ReturnType<typeof useMission.getState>["mission"]): string[] {
  const robot = useMission.getState().robot?.document;
  const taken = new Set(
    mission.remote
      ? statementsOf(mission.remote).flatMap((line) => (line.type === "binding" ? [line.control.name] : []))
      : [],
  );
  const free = BUTTONS.find((name) => !taken.has(name)) ?? "thumb.lower";
  const driving = new Set(robot?.wheels.map((wheel) => wheel.drivenBy));
  const motors = robot?.motors.filter((motor) => !driving.has(motor.name)).map((motor) => motor.name) ?? [];
  const servos = robot?.servos.filter(({ kind }) => kind === "positional").map((servo) => servo.name) ?? [];
  return [
    `hold ${free} at 12 cm/s`,
    ...motors.map((name) => `hold ${free} power ${name} 50 % release stop`),
    ...mission.routines.map(({ name }) => `tap ${free} ${name.name}() again stop`),
    ...servos.map((name) => `with slider.one move ${name} from -45 deg to 45 deg`),
    `toggle ${free} light 100 % again light 0 %`,
    `tap ${free} beep again keep`,
  ];
}

/** A button to press with a finger; lit while it is down, whatever holds it. */
function Cap({ name }: { name: string }) {
  const index = (BUTTONS as readonly string[]).indexOf(name);
  const learning = useHands((state) => state.learning);
  const pad = useHands((state) => state.pad);
  const key = Object.entries(KEY_BUTTONS).find(([, button]) => button === index)?.[0];
  const press = (down: boolean) => touchButton(index, down);
  return (
    <span className="capcell">
      <button
        type="button"
        className="cap"
        data-button={index}
        disabled={index === -1}
        title="Press it here, or on the pad"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          press(true);
        }}
        onPointerUp={() => press(false)}
        onPointerCancel={() => press(false)}
        onLostPointerCapture={() => press(false)}
      >
        {name}
      </button>
      <span className="quiet key">{key ? keyWords(key) : ""}</span>
      {pad !== null && index !== -1 && (
        <button
          type="button"
          className="plain quiet key"
          aria-label={`Find ${name} on the pad`}
          onClick={() => learn({ what: "button", index })}
        >
          {learning?.what === "button" && learning.index === index ? "press it now" : "find"}
        </button>
      )}
    </span>
  );
}

function keyWords(code: string): string {
  return code.replace("Key", "").replace("ShiftLeft", "Shift");
}

function Slider({ name }: { name: string }) {
  const level = name === "slider.two" ? 3 : 2;
  const [value, setValue] = useState(50);
  if (!name.startsWith("slider")) return null;
  return (
    <input
      type="range"
      min={0}
      max={100}
      value={value}
      aria-label={name}
      onChange={(event) => {
        setValue(Number(event.target.value));
        touched.levels[level] = Number(event.target.value) / 100;
      }}
    />
  );
}

function Pad() {
  const { pad, standard, layout, learning } = useHands();
  if (pad === null)
    return (
      <p className="padline quiet">
        Drive with W A S D, the arrow keys or the stick on the screen. Press a button on a gamepad to use it.
      </p>
    );
  return (
    <div className="padline">
      <p>
        <strong>{pad}</strong>
        {standard ? "" : " does not say which axis is which. Push its sticks as asked."}
      </p>
      <ul className="axes">
        {STICKS.map(({ id, push }, index) => {
          const bound = layout.axes[index];
          const asked = learning?.what === "stick" && learning.index === index;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: four directions in a fixed order
            <li key={index}>
              <span>
                {id}, {push}
              </span>
              <span className="mono quiet">
                {bound ? `axis ${bound.axis}${bound.sign < 0 ? ", turned" : ""}` : "not bound"}
              </span>
              <button type="button" className="plain" onClick={() => learn(asked ? null : { what: "stick", index })}>
                {asked ? `push ${id} ${push} now` : "find"}
              </button>
            </li>
          );
        })}
      </ul>
      <button type="button" className="plain quiet" onClick={forgetLayout}>
        Its usual layout again
      </button>
    </div>
  );
}
