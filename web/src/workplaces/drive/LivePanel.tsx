// The right side: the link and what the robot says of itself, each a number that can be drawn as a strip, and the radio
// to practise on.
import { benchWheels, bodiesOf, type FrameOf, sensorKind, walk } from "@giddy-pebble/core";
import { useMemo } from "react";
import { useLink } from "../../shared/link/linkStore.js";
import { useMission } from "../../shared/mission/state.js";
import { QuantityField } from "../../shared/quantity/QuantityField.js";
import { setRadio, useCalmDrive, useDrive } from "./driving.js";
import type { Channel } from "./Strips.js";

/** Without a minus before a zero. */
function fixed(value: number, digits: number): string {
  const text = value.toFixed(digits);
  return Number(text) === 0 ? text.replace("-", "") : text;
}
const signed = (value: number, digits: number) =>
  `${Number(value.toFixed(digits)) > 0 ? "+" : ""}${fixed(value, digits)}`;
const speed = (label: string, id: "leftMS" | "rightMS"): Channel => ({
  id,
  label,
  value: (frame) => frame[id],
  words: (value) => `${fixed(value * 100, 1)} cm/s`,
  span: 0.3,
});

/** How a reading that its sensor has no row of its own for is told: unit, span of its strip, and full bar. */
const LIVE_UNITS: Readonly<
  Record<string, { unit: string; perSi: number; digits: number; span: number; full: number } | undefined>
> = {
  force: { unit: "N", perSi: 1, digits: 2, span: 2, full: 10 },
  angle: { unit: "deg", perSi: 180 / Math.PI, digits: 1, span: 0.2, full: Math.PI / 4 },
  length: { unit: "cm", perSi: 100, digits: 1, span: 0.5, full: 2 },
};

/** Channels of the robot in hand: what every robot says, and its own sensors. */
export function useChannels(): readonly Channel[] {
  const robot = useMission((state) => state.robot?.document ?? null);
  const mission = useMission((state) => state.mission);
  return useMemo(() => {
    const noted = new Set<string>();
    for (const block of bodiesOf(mission))
      walk(block, (statement) => {
        if (statement.type === "note") noted.add(statement.name.name);
      });
    const notes = [...noted].map(
      (name): Channel => ({
        id: `note:${name}`,
        label: name,
        value: (frame) => frame.values[`note:${name}`] ?? null,
        words: (value) => fixed(value, 3),
        span: 0.1,
      }),
    );
    const motor = (label: string, i: number): Channel => ({
      id: `amps${i}`,
      label,
      value: (frame) => frame.motorAmps[i] ?? null,
      words: (value) => `${fixed(value, 2)} A`,
      span: 0.4,
    });
    const heat = (label: string, i: number): Channel => ({
      id: `heat${i}`,
      label,
      value: (frame) => frame.motorC[i] ?? null,
      words: (value) => `${value.toFixed(0)} °C`,
      span: 10,
    });
    const own: Channel[] = (robot?.sensors ?? []).flatMap((sensor): Channel[] => {
      const reading = (
        id: string,
        label: string,
        words: Channel["words"],
        span: number,
        bar: NonNullable<Channel["bar"]>,
      ): Channel => ({ id, label, value: (frame) => frame.values[id] ?? null, words, span, bar });
      const itself = (value: number) => value;
      if (sensor.kind === "eye")
        return [
          reading(
            `${sensor.name}.distance`,
            sensor.name,
            (value) => `${(value * 100).toFixed(1)} cm`,
            0.5,
            (value) => value / sensor.farM,
          ),
        ];
      if (sensor.kind === "bumper" || sensor.kind === "button")
        return [reading(`${sensor.name}.pressed`, sensor.name, (value) => (value ? "pressed" : "open"), 1, itself)];
      if (sensor.kind === "near")
        return [reading(`${sensor.name}.blocked`, sensor.name, (value) => (value ? "blocked" : "clear"), 1, itself)];
      if (sensor.kind === "floor") {
        const spots =
          sensor.layout === "single"
            ? [""]
            : sensor.layout === "pair"
              ? [".left", ".right"]
              : Array.from({ length: sensor.count }, (_, i) => `[${i + 1}]`);
        return spots.map((spot) =>
          reading(
            `${sensor.name}${spot}.light`,
            `${sensor.name}${spot}`,
            (value) => `${fixed(value * 100, 0)} %`,
            0.5,
            itself,
          ),
        );
      }
      return sensorKind(sensor)
        .readings(sensor)
        .flatMap(([name, is]) => {
          const shown = LIVE_UNITS[is];
          if (!shown) return [];
          const said = (value: number) => `${fixed(value * shown.perSi, shown.digits)} ${shown.unit}`;
          return [
            reading(
              `${sensor.name}.${name}`,
              `${sensor.name} ${name}`,
              said,
              shown.span,
              (value) => value / shown.full,
            ),
          ];
        });
    });
    return [
      speed("left wheel", "leftMS"),
      speed("right wheel", "rightMS"),
      {
        id: "heading",
        label: "Heading",
        value: (frame: FrameOf<"readings">) => frame.headingRad,
        words: (value: number) => `${signed((value * 180) / Math.PI, 1)} deg`,
        span: 1,
      },
      {
        id: "pack",
        label: "Pack",
        value: (frame: FrameOf<"readings">) => frame.packVolts,
        words: (value: number) => `${value.toFixed(2)} V`,
        span: 0.5,
      },
      motor("Left motor", 0),
      heat("Left winding", 0),
      motor("Right motor", 1),
      heat("Right winding", 1),
      ...(robot ? benchWheels(robot).slice(2) : []).flatMap(({ name }, i) => {
        const said = `${name.charAt(0).toUpperCase()}${name.slice(1)}`;
        return [motor(`${said} motor`, i + 2), heat(`${said} winding`, i + 2)];
      }),
      ...own,
      ...notes,
    ];
  }, [robot, mission]);
}

function percent(share: number | null): string {
  return share === null ? "–" : `${(share * 100).toFixed(1)} %`;
}

export function LivePanel({ channels }: { channels: readonly Channel[] }) {
  const is = useLink((state) => state.is);
  const robot = useLink((state) => state.hello?.robot ?? null);
  const hand = useLink((state) => state.state?.hand ?? "itself");
  const figures = useDrive((state) => state.figures);
  const readings = useCalmDrive((state) => state.readings);
  const strips = useDrive((state) => state.strips);
  const toggle = (id: string) =>
    useDrive.setState({ strips: strips.includes(id) ? strips.filter((one) => one !== id) : [...strips, id].slice(-4) });
  if (is !== "linked" || robot === null)
    return (
      <aside className="livepanel">
        <h2>No robot is linked</h2>
        <p className="quiet">
          Link one at the top right: a simulated robot is there, and it drives like a robot on a table.
        </p>
      </aside>
    );
  return (
    <aside className="livepanel">
      <h2>Link to {robot}</h2>
      <dl className="figures">
        <div>
          <dt>Round trip</dt>
          <dd className="mono">{figures.roundTripMs === null ? "–" : `${figures.roundTripMs.toFixed(0)} ms`}</dd>
        </div>
        <div>
          <dt>Lost, last 10 s</dt>
          <dd className="mono">{percent(figures.lost)}</dd>
        </div>
        {channels.map((channel) => {
          const value = readings ? channel.value(readings) : null;
          if (readings && value === null) return null;
          return (
            <div key={channel.id} className="channel">
              <dt>
                <button
                  type="button"
                  className="plain"
                  aria-pressed={strips.includes(channel.id)}
                  onClick={() => toggle(channel.id)}
                >
                  {channel.label}
                </button>
              </dt>
              <dd className="mono">
                {value === null ? "–" : channel.words(value)}
                {channel.bar && value !== null && (
                  <span className="bar" aria-hidden="true">
                    <i style={{ width: `${Math.max(0, Math.min(1, channel.bar(value))) * 100}%` }} />
                  </span>
                )}
              </dd>
            </div>
          );
        })}
      </dl>
      <p className="watchdog" data-hand={hand} role="status">
        {hand === "silent"
          ? `${robot} heard nothing for 300 ms and stands. Let go of the sticks, then it drives again.`
          : `If the link is silent for 300 ms, ${robot} stops and says so. Esc stops it now.`}
      </p>
      <Radio />
    </aside>
  );
}

function Radio() {
  const radio = useDrive((state) => state.radio);
  const simulated = useLink((state) => state.hello?.simulated ?? false);
  if (!simulated) return null;
  const number = (text: string) => Number(/-?[\d.]+/.exec(text)?.[0] ?? "0");
  const row = (
    label: string,
    digits: string,
    unit: string,
    put: (value: number) => Parameters<typeof setRadio>[0],
    most: number,
  ) => (
    <div>
      <dt>{label}</dt>
      <dd>
        <QuantityField
          digits={digits}
          unit={unit}
          label={label}
          refuse={(typed) =>
            Number(typed) < 0 || Number(typed) > most ? `${label} lies between 0 and ${most} ${unit}.` : null
          }
          onChange={(text) => void setRadio(put(number(text)))}
        />
      </dd>
    </div>
  );
  return (
    <>
      <h2>Practise on a bad radio</h2>
      <dl className="figures">
        {row("Delay", radio.delayMs.toFixed(0), "ms", (delayMs) => ({ ...radio, delayMs }), 1000)}
        {row("Jitter", radio.jitterMs.toFixed(0), "ms", (jitterMs) => ({ ...radio, jitterMs }), 1000)}
        {row("Loss", (radio.loss * 100).toFixed(0), "%", (loss) => ({ ...radio, loss: loss / 100 }), 95)}
        {row(
          "Range, 0 is any",
          ((radio.rangeM ?? 0) * 1).toFixed(1),
          "m",
          (m) => ({ ...radio, rangeM: m < 0.2 ? null : m }),
          100,
        )}
      </dl>
    </>
  );
}
