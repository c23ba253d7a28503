// What each sensor sees along the way, as a strip of colour over time: light and dark of every floor spot, near and far of
// a distance sensor, pressed and free of a switch.
import { type Robot, type Trace, traceColumn } from "@giddy-pebble/core";

/** One band of a strip: for every step of strength the path of its stretches. */
interface Band {
  readonly id: string;
  /** The reading with its unit, for a moment. */
  readonly words: (tick: number) => string;
  /** Strength 0..1 at a tick; null draws nothing. */
  readonly at: (tick: number) => number | null;
  /** Colour of a strength. */
  readonly fill: (strength: number) => string;
}

export interface Strip {
  readonly id: string;
  readonly label: string;
  readonly bands: readonly Band[];
  readonly length: number;
}

/** Strengths are drawn in so many steps. */
export const STEPS = 12;

function grey(light: number): string {
  const share = Math.round(255 * (0.08 + 0.88 * light));
  return `rgb(${share}, ${share}, ${share})`;
}

function mixed(colour: string): (strength: number) => string {
  return (strength) => `color-mix(in srgb, ${colour} ${Math.round(strength * 100)}%, transparent)`;
}

const AMBER = mixed("var(--amber)");
const RUST = mixed("var(--rust)");

function lightBand(id: string, values: Float32Array): Band {
  const at = (tick: number) => Math.max(0, Math.min(1, values[tick] ?? 0));
  return { id, at, fill: grey, words: (tick) => `${Math.round(at(tick) * 100)} %` };
}

function eyeBand(id: string, distance: Float32Array, seen: Float32Array | null, farM: number): Band {
  const heard = (tick: number) => (seen ? seen[tick] === 1 : true);
  return {
    id,
    // Near is strong; what stands at the far limit is still seen.
    at: (tick) => (heard(tick) ? 1 - 0.85 * Math.min(1, (distance[tick] ?? farM) / farM) : null),
    fill: AMBER,
    words: (tick) => (heard(tick) ? `${((distance[tick] ?? 0) * 100).toFixed(1)} cm` : "nothing"),
  };
}

function switchBand(id: string, values: Float32Array, yes: string): Band {
  return {
    id,
    at: (tick) => (values[tick] === 1 ? 1 : null),
    fill: RUST,
    words: (tick) => (values[tick] === 1 ? yes : "free"),
  };
}

/** What tells most comes first. */
const FIRST: readonly string[] = ["floor", "eye", "near", "bumper"];

function order(kind: string): number {
  const at = FIRST.indexOf(kind);
  return at === -1 ? FIRST.length : at;
}

/** Strips of all sensors whose readings a run kept. */
export function stripsOf(trace: Trace | null, robot: Robot | null): Strip[] {
  if (!trace || !robot) return [];
  const length = trace.columns[0]?.values.length ?? 0;
  const sensors = [...robot.sensors].sort((a, b) => order(a.kind) - order(b.kind));
  return sensors.flatMap((sensor): Strip[] => {
    const ids = trace.columns
      .map(({ id }) => id)
      .filter((id) => id.startsWith(`${sensor.name}.`) || id.startsWith(`${sensor.name}[`));
    const bands = ids.flatMap((id): Band[] => {
      const values = traceColumn(trace, id);
      if (!values) return [];
      if (id.endsWith(".light")) return [lightBand(id, values)];
      if (id.endsWith(".distance"))
        return [
          eyeBand(id, values, traceColumn(trace, `${sensor.name}.seen`), sensor.kind === "eye" ? sensor.farM : 1),
        ];
      if (id.endsWith(".pressed") || id.endsWith(".blocked"))
        return [switchBand(id, values, id.slice(id.lastIndexOf(".") + 1))];
      return [];
    });
    return bands.length > 0 ? [{ id: `strip ${sensor.name}`, label: sensor.name, bands, length }] : [];
  });
}

/** One path of rectangles for every step of strength that occurs. */
export function bandPaths(
  band: Band,
  length: number,
  x: (tick: number) => number,
  top: number,
  high: number,
  widthPx: number,
): { readonly fill: string; readonly d: string }[] {
  const every = Math.max(1, Math.floor(length / Math.max(200, widthPx)));
  const paths = new Map<number, string>();
  let from = 0;
  let now: number | null = null;
  const end = (tick: number) => {
    if (now !== null) {
      const left = x(from).toFixed(1);
      paths.set(now, `${paths.get(now) ?? ""}M${left} ${top}H${x(tick).toFixed(1)}V${top + high}H${left}Z`);
    }
    from = tick;
  };
  for (let tick = 0; tick < length; tick += every) {
    const strength = band.at(tick);
    const step = strength === null ? null : Math.round(strength * STEPS);
    if (step === now) continue;
    end(tick);
    now = step;
  }
  end(length - 1);
  return [...paths].map(([step, d]) => ({ fill: band.fill(step / STEPS), d }));
}
