// Edits of remote as text: each leaves a text that parses, and says what it should.
import { describe, expect, test } from "vitest";
import { handsOver } from "../../src/cairn/remoteEdits.js";
import {
  addRemoteLine,
  applyChange,
  driveLine,
  drivenByItself,
  formatMission,
  makeDriven,
  parseMission,
  setStick,
  setStickMode,
  type TextChange,
} from "../../src/index.js";
import { missionFile, missionOf, problemsOf } from "../support/demo.js";

const DRIVEN = `${missionOf("go 20 cm\nhand over")}\nremote\n  drive one stick at 30 cm/s dead 12 %\n`;
const after = (text: string, change: TextChange | null) => (change ? applyChange(text, change) : null);
const parsed = parseMission(DRIVEN);

describe("the sticks", () => {
  test("change their way of mixing and keep their settings", () => {
    expect(after(DRIVEN, setStickMode(parsed, "tank"))).toContain("  drive tank at 30 cm/s dead 12 %\n");
    expect(after(DRIVEN, setStickMode(parsed, "two sticks"))).toContain("  drive two sticks at 30 cm/s");
  });

  test("settings are changed, put in at their place, and taken out", () => {
    expect(after(DRIVEN, setStick(parsed, "dead", "20 %"))).toContain("at 30 cm/s dead 20 %\n");
    expect(after(DRIVEN, setStick(parsed, "turning", "50 %"))).toContain("at 30 cm/s turning 50 % dead 12 %\n");
    expect(after(DRIVEN, setStick(parsed, "ramp", "80 cm/s/s"))).toContain("dead 12 % ramp 80 cm/s/s\n");
    expect(after(DRIVEN, setStick(parsed, "at", null))).toContain("drive one stick dead 12 %\n");
    expect(setStick(parsed, "curve", null)).toBeNull();
    const bare = parseMission(DRIVEN.replace(" at 30 cm/s dead 12 %", ""));
    expect(after(bare.text, setStick(bare, "at", "9 cm/s"))).toContain("drive one stick at 9 cm/s\n");
    expect(setStick(parseMission(missionOf("go 1 cm")), "at", "9 cm/s")).toBeNull();
  });
});

describe("lines", () => {
  test("are added at the end, or with a block of their own", () => {
    const more = after(DRIVEN, addRemoteLine(parsed, "hold trigger.left at 10 cm/s")) ?? "";
    expect(more.endsWith("dead 12 %\n  hold trigger.left at 10 cm/s\n")).toBe(true);
    expect(problemsOf(more)).toEqual([]);
    const plain = missionOf("hand over");
    expect(after(plain, addRemoteLine(parseMission(plain), "drive tank"))).toMatch(
      /hand over\n\nremote\n {2}drive tank\n$/,
    );
  });

  test("a mission is made drivable once", () => {
    const made = makeDriven(parseMission(missionOf("go 20 cm")));
    expect(problemsOf(made)).toEqual([]);
    expect(handsOver(parseMission(made))).toBe(true);
    expect(driveLine(parseMission(made))?.mode).toBe("one stick");
    expect(makeDriven(parseMission(made))).toBe(made);
    expect(formatMission(made).ok).toBe(true);
  });

  test("steps take the place of the hand-over, and the rest of the mission stays", () => {
    const text = drivenByItself(parseMission(missionFile("missions/ferry-crates.cairn")), [
      "go 50 cm",
      "turn left 90 deg",
    ]);
    expect(text).toContain("  go 25 cm\n  go 50 cm\n  turn left 90 deg\n  finish\n");
    expect(text).not.toContain("remote");
    expect(handsOver(parseMission(text))).toBe(false);
    expect(drivenByItself(parsed, [])).toContain("  go 20 cm\n  wait 0.1 s\n");
  });
});
