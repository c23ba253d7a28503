// What is chosen rather than typed: sides, motors, boards, drives, gears.

import {
  BOARDS,
  boardProfile,
  DRIVE_KINDS,
  drawnKnown,
  driveKind,
  type Robot,
  type RobotPart,
  type Stage,
  setAttachmentKind,
  setDriveKind,
  setPartValue,
  type Wheel,
  withBoard,
} from "@giddy-pebble/core";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { Pick } from "../../shared/controls.js";
import { Stages } from "./Stages.js";
import { useRobot } from "./state.js";
import { change } from "./store.js";

interface Option {
  readonly value: string;
  readonly words: string;
}

export function Choice({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: string;
  options: readonly Option[];
  onChange(value: string): void;
}) {
  return (
    <label className="quantityrow">
      <span>{label}</span>
      <Pick value={value} onChange={(event) => onChange(event.target.value)}>
        {!options.some((option) => option.value === value) && (
          <option value={value}>{value === "" ? "nothing" : value}</option>
        )}
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.words}
          </option>
        ))}
      </Pick>
    </label>
  );
}

function Switch({ label, value, onChange }: { label: string; value: boolean; onChange(value: boolean): void }) {
  return (
    <FormControlLabel
      className="quantityrow"
      label={label}
      labelPlacement="start"
      control={<Checkbox size="small" checked={value} onChange={(event) => onChange(event.target.checked)} />}
    />
  );
}

const same = (values: readonly string[]): Option[] =>
  values.map((value) => ({ value, words: value.replaceAll("_", " ") }));

/** Everything of a part that is chosen from a few. */
export function Choices({ part }: { part: RobotPart }) {
  const robot = useRobot((state) => state.robot);
  const set = (path: string, value: unknown, label: string) =>
    change(setPartValue(robot, part.ref, path, value), label);
  const value = part.value as Record<string, unknown>;
  const movers = [...robot.motors, ...robot.servos].map(({ name }) => name);
  return (
    <>
      {part.kind === "wheel" && (
        <>
          <Choice
            label="Side"
            value={String(value.side)}
            options={same(["left", "right"])}
            onChange={(next) => set("side", next, "side")}
          />
          <Choice
            label="Driven by"
            value={String(value.drivenBy ?? "")}
            options={[
              { value: "", words: "nothing, rolls freely" },
              ...same([...robot.motors, ...robot.wheels].map(({ name }) => name).filter((name) => name !== part.ref)),
            ]}
            onChange={(next) => set("drivenBy", next === "" ? null : next, "what drives it")}
          />
          {driveKind(robot.drive).steers && (
            <Switch
              label="Steered"
              value={value.steered === true}
              onChange={(next) => set("steered", next, "steering")}
            />
          )}
          {(driveKind(robot.drive).slides || value.rollers !== null) && (
            <Switch
              label="Rollers round its rim"
              value={value.rollers !== null}
              onChange={(next) => set("rollers", next ? rollersFor(robot, value as unknown as Wheel) : null, "rollers")}
            />
          )}
          {value.drivenBy !== null && <Stages part={part} stages={value.stages as readonly Stage[]} />}
        </>
      )}
      {part.kind === "motor" && (
        <>
          <Switch
            label="Reversed"
            value={value.reversed === true}
            onChange={(next) => set("reversed", next, "direction")}
          />
          <Choice
            label="Its shaft points"
            value={String(value.shaft ?? "outward")}
            options={[
              { value: "outward", words: "out, away from the middle" },
              { value: "inward", words: "in, to the middle" },
            ]}
            onChange={(next) => set("shaft", next, "mounting")}
          />
          <Switch
            label="Has an encoder"
            value={value.encoder !== null}
            onChange={(next) => set("encoder", next ? { countsPerTurn: 720 } : null, "encoder")}
          />
        </>
      )}
      {part.kind === "servo" && (
        <Choice
          label="Kind"
          value={String(value.kind)}
          options={[
            { value: "positional", words: "runs to an angle" },
            { value: "continuous", words: "turns on and on" },
          ]}
          onChange={(next) => set("kind", next, "kind of servo")}
        />
      )}
      {part.kind === "attachment" && (
        <>
          <Choice
            label="Kind"
            value={String(value.kind)}
            options={same(["arm", "fork", "gripper", "spinner", "belt", "lid"])}
            onChange={(next) =>
              change(setAttachmentKind(robot, part.ref, next as Robot["attachments"][number]["kind"]), "kind")
            }
          />
          <Choice
            label="Moved by"
            value={String(value.drivenBy)}
            options={same(movers)}
            onChange={(next) => set("drivenBy", next, "what moves it")}
          />
          <Stages part={part} stages={value.stages as readonly Stage[]} />
        </>
      )}
      {part.kind === "support" && (
        <Choice
          label="Kind"
          value={String(value.kind)}
          options={[
            { value: "ball", words: "ball" },
            { value: "skid", words: "skid" },
            { value: "caster", words: "free caster" },
          ]}
          onChange={(next) => set("kind", next, "kind of support")}
        />
      )}
      {part.kind === "drive" && <DriveChoices robot={robot} />}
      {part.kind === "board" && <BoardChoices robot={robot} />}
      {part.kind === "pack" && (
        <Choice
          label="Cells"
          value={String(value.chemistry)}
          options={[
            { value: "lithium", words: "lithium-ion, 3.7 V" },
            { value: "nickel", words: "nickel-metal hydride, 1.2 V" },
          ]}
          onChange={(next) => set("chemistry", next, "kind of cells")}
        />
      )}
      {(part.kind === "bumper" || part.kind === "button") && (
        <Switch
          label="Pull-up on its line"
          value={value.pullUp === true}
          onChange={(next) => set("pullUp", next, "pull-up")}
        />
      )}
      {part.kind === "eye" && (
        <Choice
          label="Turned by"
          value={String(value.head ?? "")}
          options={[{ value: "", words: "fixed" }, ...same(robot.servos.map(({ name }) => name))]}
          onChange={(next) => set("head", next === "" ? null : next, "head")}
        />
      )}
      {part.kind === "floor" && (
        <Choice
          label="Layout"
          value={String(value.layout)}
          options={[
            { value: "single", words: "one spot" },
            { value: "pair", words: "a pair" },
            { value: "row", words: "a row" },
          ]}
          onChange={(next) => set("layout", next, "layout")}
        />
      )}
      {part.kind === "potentiometer" && (
        <Choice
          label="Sits on"
          value={String(value.on ?? "")}
          options={[
            { value: "", words: "nothing" },
            ...same([...robot.attachments.map(({ name }) => name), ...movers]),
          ]}
          onChange={(next) => set("on", next === "" ? null : next, "what it sits on")}
        />
      )}
    </>
  );
}

/** Rollers as they must lie where a wheel stands; at 45 deg on drives that have none of their own. */
function rollersFor(robot: Robot, wheel: Wheel): Wheel["rollers"] {
  return driveKind(robot.drive).wheelFor(wheel).rollers ?? { axleRad: Math.PI / 4, friction: 0.02 };
}

function DriveChoices({ robot }: { robot: Robot }) {
  const { drive } = robot;
  const set = (path: string, value: unknown, label: string) => change(setPartValue(robot, "drive", path, value), label);
  return (
    <>
      <Choice
        label="Kind"
        value={drive.kind}
        options={DRIVE_KINDS.map((kind) => ({ value: kind, words: driveKind({ kind }).words.choice }))}
        onChange={(next) => change(setDriveKind(robot, next as Robot["drive"]["kind"]), "kind of drive")}
      />
      <Switch
        label="Drives by time, without encoders"
        value={drive.speedAtPower !== null}
        onChange={(next) => set("speedAtPower", next ? guessedSpeedAtPower(robot) : null, "driving by time")}
      />
      {"steering" in drive && (
        <>
          <Choice
            label="Driven axle"
            value={drive.rear}
            options={[
              { value: "differential", words: "with a differential" },
              { value: "solid", words: "both wheels on one shaft" },
            ]}
            onChange={(next) => set("rear", next, "driven axle")}
          />
          <Choice
            label="Steered by"
            value={drive.steering.servo ?? ""}
            options={[{ value: "", words: "nothing" }, ...same(robot.servos.map(({ name }) => name))]}
            onChange={(next) => set("steering.servo", next === "" ? null : next, "steering servo")}
          />
          <Switch
            label="Lock pin in"
            value={drive.steering.locked}
            onChange={(next) => set("steering.locked", next, "lock pin")}
          />
        </>
      )}
    </>
  );
}

/** Speed for one volt as the drawing promises it, until somebody measures it. */
function guessedSpeedAtPower(robot: Robot): Robot["drive"]["speedAtPower"] {
  const top = useRobot.getState().figures.find((figure) => figure.id === "top-speed")?.value ?? 0.5;
  return { speedPerVolt: drawnKnown(top / robot.pack.nominalVolts), deadTimeSec: drawnKnown(0.1), deadVolts: null };
}

function BoardChoices({ robot }: { robot: Robot }) {
  const profile = boardProfile(robot.board.profile);
  return (
    <>
      <Choice
        label="Board"
        value={robot.board.profile}
        options={BOARDS.map(({ id, title }) => ({ value: id, words: title }))}
        onChange={(next) => {
          const board = boardProfile(next);
          if (board) change(withBoard(robot, board), "another board");
        }}
      />
      {profile && <p className="quiet small">{profile.about}</p>}
      <Choice
        label="Motor driver"
        value={robot.board.driver}
        options={[
          { value: "pwm", words: "PWM, any share of power" },
          { value: "on-off", words: "on and off only" },
        ]}
        onChange={(next) => change(setPartValue(robot, "board", "driver", next), "motor driver")}
      />
    </>
  );
}
