// Robot documents of older versions, each upgraded by one step.

import { PI } from "../math/trig.js";

type Json = Record<string, unknown>;

function list(value: unknown): Json[] {
  return Array.isArray(value) ? value.filter((item): item is Json => typeof item === "object" && item !== null) : [];
}

function without(part: Json, ...keys: string[]): Json {
  return Object.fromEntries(Object.entries(part).filter(([key]) => !keys.includes(key)));
}

/** Version 1 had one gear train for each wheel, ports on the parts, and two-wheel drives only. */
function toVersion2(old: Json): Json {
  const plugs = [...list(old.motors), ...list(old.sensors)].flatMap((part) =>
    typeof part.port === "string" && part.port !== "" && typeof part.name === "string"
      ? [{ part: part.name, terminal: "plug", to: part.port }]
      : [],
  );
  return {
    ...old,
    version: 2,
    wheels: list(old.wheels).map((wheel) => ({
      ...without(wheel, "motor", "gears"),
      drivenBy: wheel.motor ?? null,
      stages: wheel.gears ?? [],
    })),
    motors: list(old.motors).map((part) => without(part, "port")),
    sensors: list(old.sensors).map((part) => without(part, "port")),
    wiring: plugs,
    servos: headsOf(list(old.sensors)),
  };
}

/** Version 1 named the heads of eyes without describing them: small servos, as the catalogue has them. */
function headsOf(sensors: readonly Json[]): Json[] {
  const names = new Set(sensors.flatMap(({ head }) => (typeof head === "string" ? [head] : [])));
  return [...names].map((name) => ({
    name,
    speedRadS: 10.47,
    lowRad: -PI / 2,
    highRad: PI / 2,
    stallTorqueNm: 0.18,
    stallCurrentA: 0.7,
  }));
}

/**
 * Version 2 did not say how a motor is mounted: whatever its direction was, it was taken to fit. A shaft points in
 * where it must for that.
 */
function toVersion3(old: Json): Json {
  const wheels = list(old.wheels);
  const motors = list(old.motors).map((motor) => {
    const wheel = wheels.find(({ drivenBy }) => drivenBy === motor.name);
    if (!wheel) return motor;
    const flips = list(wheel.stages).filter(({ kind }) => kind === undefined || kind === "gears").length % 2 === 1;
    const needed = (wheel.side === "right") !== flips;
    return { ...motor, shaft: needed === (motor.reversed === true) ? "outward" : "inward" };
  });
  return { ...old, version: 3, motors };
}

export const ROBOT_UPGRADES: Readonly<Record<number, (old: Json) => Json>> = { 1: toVersion2, 2: toVersion3 };
