// Board profiles as data: generic boards of the kinds school and competition robots are built on. Layouts and
// numbers are our own; ratings are typical of catalogue parts.

import type { Ability } from "../sensors/kinds/kind.js";

export interface BoardTerminal {
  readonly id: string;
  readonly can: readonly Ability[];
  /** Level of its signals and supply, V; 0 for ground; null passes on the pack. */
  readonly volts: number | null;
  /** A supply or ground many wires may share. */
  readonly shared?: true;
  /** Most it gives, A. */
  readonly mostA?: number;
  /** Edge it is drawn on. */
  readonly edge: "top" | "bottom";
}

export interface BoardProfile {
  readonly id: string;
  readonly title: string;
  readonly about: string;
  /** One cable for each device, or single wires to pins. */
  readonly style: "plugs" | "pins";
  readonly terminals: readonly BoardTerminal[];
  /** Motor driver: volts it loses, most it gives on each channel, and whether it can be pulsed. */
  readonly driver: { readonly dropVolts: number; readonly mostA: number; readonly kind: "pwm" | "on-off" };
  readonly logicVolts: number;
  readonly currentA: number;
  readonly brownOutVolts: number;
}

function sockets(): BoardTerminal[] {
  return Array.from({ length: 10 }, (_, i): BoardTerminal => {
    const id = String(i + 1);
    if (i < 4) return { id, can: ["motor"], volts: null, mostA: 2.2, edge: "top" };
    const five = i >= 8;
    return {
      id,
      can: five ? ["sensor", "servo"] : ["sensor"],
      volts: five ? 5 : 3.3,
      mostA: five ? 1.5 : 0.3,
      edge: "bottom",
    };
  });
}

function pin(id: string, volts: number, can: Ability[], edge: "top" | "bottom"): BoardTerminal {
  return { id, can, volts, edge };
}

function supply(id: string, volts: number | null, mostA: number, edge: "top" | "bottom"): BoardTerminal {
  return { id, can: [], volts, shared: true, mostA, edge };
}

function eightBitPins(): BoardTerminal[] {
  const pins: BoardTerminal[] = [];
  for (let n = 1; n <= 10; n += 1) {
    const can: Ability[] = ["digital"];
    if (n <= 2) can.push("interrupt");
    if (n >= 5) can.push("pwm");
    pins.push(pin(`P${n}`, 5, can, "top"));
  }
  for (let n = 1; n <= 6; n += 1) {
    const can: Ability[] = ["digital", "analog"];
    if (n === 5) can.push("bus-data");
    if (n === 6) can.push("bus-clock");
    pins.push(pin(`Q${n}`, 5, can, "bottom"));
  }
  return pins;
}

function smallPins(): BoardTerminal[] {
  return Array.from({ length: 16 }, (_, i) => {
    const n = i + 1;
    const can: Ability[] = ["digital", "pwm", "interrupt"];
    if (n >= 9 && n <= 14) can.push("analog");
    if (n === 15) can.push("bus-data");
    if (n === 16) can.push("bus-clock");
    return pin(`S${n}`, 3.3, can, n <= 8 ? "top" : "bottom");
  });
}

const CHANNELS: readonly BoardTerminal[] = [
  { id: "A", can: ["motor"], volts: null, edge: "top" },
  { id: "B", can: ["motor"], volts: null, edge: "top" },
];

export const BOARDS: readonly BoardProfile[] = [
  {
    id: "smart-ten",
    title: "Smart board, ten sockets",
    about: "Four motor sockets and six sensor sockets, one cable each. It knows what is plugged in.",
    style: "plugs",
    terminals: sockets(),
    driver: { dropVolts: 0, mostA: 2.2, kind: "pwm" },
    logicVolts: 3.3,
    currentA: 0.12,
    brownOutVolts: 4.5,
  },
  {
    id: "eight-bit",
    title: "8-bit board with a two-channel H-bridge",
    about: "Sixteen numbered pins at 5 V, and a bridge of the older kind that loses 1.8 V.",
    style: "pins",
    terminals: [
      ...CHANNELS,
      ...eightBitPins(),
      supply("5V", 5, 0.8, "bottom"),
      supply("PACK", null, 10, "top"),
      supply("GND", 0, 10, "bottom"),
    ],
    driver: { dropVolts: 1.8, mostA: 2, kind: "pwm" },
    logicVolts: 5,
    currentA: 0.06,
    brownOutVolts: 5.2,
  },
  {
    id: "small-3v3",
    title: "Small 3.3 V board",
    about: "Sixteen quick pins at 3.3 V, each with PWM and interrupt, and a two-channel driver without loss.",
    style: "pins",
    terminals: [
      ...CHANNELS,
      ...smallPins(),
      supply("3V3", 3.3, 0.5, "bottom"),
      supply("5V", 5, 1.5, "bottom"),
      supply("PACK", null, 10, "top"),
      supply("GND", 0, 10, "bottom"),
    ],
    driver: { dropVolts: 0.1, mostA: 1.2, kind: "pwm" },
    logicVolts: 3.3,
    currentA: 0.09,
    brownOutVolts: 3.6,
  },
];

export function boardProfile(id: string): BoardProfile | null {
  return BOARDS.find((board) => board.id === id) ?? null;
}
