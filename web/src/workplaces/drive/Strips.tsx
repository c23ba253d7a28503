// Channels of the last ten seconds, one strip each, drawn as the readings come.
import type { FrameOf } from "@giddy-pebble/core";
import { extent, line, scaleLinear } from "d3";
import { useEffect, useRef } from "react";
import { READ_EVERY_MS, subscribeCalmly } from "../../shared/calm.js";
import { strip, useDrive } from "./driving.js";

export interface Channel {
  readonly id: string;
  readonly label: string;
  readonly value: (frame: FrameOf<"readings">) => number | null;
  readonly words: (value: number) => string;
  /** Smallest span of the strip. */
  readonly span: number;
  /** Share of a bar beside the number, 0..1; left out for readings without ends. */
  readonly bar?: (value: number) => number;
}

const TICKS = 1000;
const HEIGHT = 38;
const WIDTH = 560;

export function Strips({ channels }: { channels: readonly Channel[] }) {
  const on = useDrive((state) => state.strips);
  const shown = channels.filter(({ id }) => on.includes(id));
  return (
    <section className="strips" aria-label="Readings of the last ten seconds">
      {shown.map((channel, i) => (
        <Strip key={channel.id} channel={channel} tone={i % 3} />
      ))}
      {shown.length === 0 && <p className="quiet">Press a reading on the right to draw it here.</p>}
    </section>
  );
}

function Strip({ channel, tone }: { channel: Channel; tone: number }) {
  const path = useRef<SVGPathElement>(null);
  const words = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let frame = 0;
    let drawn = -1;
    const paint = () => {
      frame = 0;
      const last = strip.at(-1);
      if (!last || last.tick === drawn) return;
      drawn = last.tick;
      const points = strip.flatMap((one): [number, number][] => {
        const value = channel.value(one);
        return value === null || one.run !== last.run ? [] : [[one.tick, value]];
      });
      const [low = 0, high = 0] = extent(points, ([, value]) => value) as [number, number];
      const room = Math.max(channel.span, high - low) * 0.5;
      const middle = (low + high) / 2;
      const x = scaleLinear([last.tick - TICKS, last.tick], [0, WIDTH]);
      const y = scaleLinear([middle - room, middle + room], [HEIGHT - 3, 3]);
      path.current?.setAttribute(
        "d",
        line<[number, number]>(
          ([tick]) => x(tick),
          ([, value]) => y(value),
        )(points) ?? "",
      );
      const now = channel.value(last);
      if (words.current) words.current.textContent = now === null ? "" : channel.words(now);
    };
    const soon = () => {
      if (frame === 0) frame = requestAnimationFrame(paint);
    };
    soon();
    const off = subscribeCalmly(useDrive, READ_EVERY_MS, soon);
    return () => {
      off();
      cancelAnimationFrame(frame);
    };
  }, [channel]);
  return (
    <div className="strip" data-tone={tone}>
      <span className="stripname">
        {channel.label}
        <span ref={words} className="mono" />
      </span>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden="true">
        <path ref={path} />
      </svg>
    </div>
  );
}
