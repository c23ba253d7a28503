// A distance sensor in the run: what it heard in which direction, where it is blind, and how long each look of its head
// took: moving, settling, waiting for the ping, waiting for the echo.

import {
  bearingWords,
  eyeBlind,
  type HeadLook,
  headLooks,
  plainDigits,
  type SensorOf,
  TICK_MS,
  traceColumn,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { axisBottom, scaleLinear, select } from "d3";
import { useEffect, useMemo, useRef, useState } from "react";
import { Polar } from "../../shared/charts/Polar.js";
import { plainAxis } from "../../shared/charts/plainAxis.js";
import { useFollow } from "../../shared/mission/follow.js";
import { pause } from "../../shared/mission/running.js";
import { movePlayhead, playhead } from "../../shared/mission/state.js";
import type { Shown } from "./SensorsPanel.js";

type Eye = SensorOf<"eye">;

/** What was heard in the last seconds is in the picture, ticks. */
const REMEMBERED_TICKS = 300;
/** Looks around the playhead in the timeline. */
const LOOKS_SHOWN = 6;

/** Something heard: where it was against the chassis then, and how long ago. */
interface Echo {
  readonly bearingRad: number;
  readonly distanceM: number;
  readonly age: number;
}

/** Every change of a reading in the last seconds, oldest first. */
function echoesBefore(shown: Shown, eye: Eye, tick: number): Echo[] {
  const distance = traceColumn(shown.trace, `${eye.name}.distance`);
  const seen = traceColumn(shown.trace, `${eye.name}.seen`);
  const angle = eye.head === null ? null : traceColumn(shown.trace, `${eye.head}.angle`);
  if (!distance || !seen) return [];
  const echoes: Echo[] = [];
  const last = Math.min(distance.length - 1, tick);
  for (let i = Math.max(1, last - REMEMBERED_TICKS); i <= last; i += 1)
    if (seen[i] === 1 && distance[i] !== distance[i - 1])
      echoes.push({
        bearingRad: eye.aimRad + (angle?.[i] ?? 0),
        distanceM: distance[i] as number,
        age: (last - i) / REMEMBERED_TICKS,
      });
  return echoes;
}

export function EyeLooks({ eye, shown }: { eye: Eye; shown: Shown }) {
  const { trace, robot } = shown;
  const blind = useMemo(() => eyeBlind(robot, eye), [robot, eye]);
  const looks = useMemo(() => headLooks(trace, eye), [trace, eye]);
  const [tick, setTick] = useState(0);
  // Ten times a second is enough for a picture of it.
  useFollow(() => setTick(Math.floor(playhead.tick / 10) * 10));
  const echoes = useMemo(() => echoesBefore(shown, eye, tick), [shown, eye, tick]);
  const reach = Math.min(eye.farM, Math.max(0.3, ...echoes.map(({ distanceM }) => distanceM * 1.1)));
  const newest = echoes.at(-1);
  const cm = (metres: number) => `${plainDigits(metres * 100, 0)} cm`;
  const [low, high] = blind.reachRad;
  const deg = (rad: number) => `${plainDigits((rad * 180) / Math.PI, 0)} deg`;
  return (
    <section className="eyelooks" aria-label={`Looks of ${eye.name}`}>
      <h3>What {eye.name} hears</h3>
      <div className="eyepicture">
        <Polar
          label={
            newest
              ? `${eye.name} hears ${cm(newest.distanceM)}, ${bearingWords(newest.bearingRad)}`
              : `${eye.name} hears nothing`
          }
          reachM={reach}
          sectorRad={blind.reachRad}
          nearM={blind.nearM}
        >
          {(at) =>
            echoes.map(({ bearingRad, distanceM, age }) => (
              <polyline
                key={age}
                className="echo"
                opacity={1 - 0.85 * age}
                points={[-0.5, -0.25, 0, 0.25, 0.5]
                  .map((share) => at(bearingRad + share * eye.coneRad, distanceM))
                  .join(" ")}
              />
            ))
          }
        </Polar>
        <ul className="small">
          <li>Rim: {cm(reach)}. Ahead is up.</li>
          <li>Hatched is blind.</li>
          <li>
            It looks {high - low >= 2 * Math.PI ? "all around" : `from right ${deg(-low)} to left ${deg(high)}`}, its
            cone of {deg(blind.coneRad)} included.
          </li>
          <li>
            It hears from {cm(blind.nearM)} to {cm(blind.farM)}.
          </li>
          <li>An echo from there takes {plainDigits(blind.echoSec * 1000, 0)} ms.</li>
        </ul>
      </div>
      {eye.head === null ? (
        <p className="quiet small">It sits on no head: it pings every {eye.cycleMs} ms where it points.</p>
      ) : looks.length === 0 ? (
        <p className="quiet small">
          Its head {eye.head} never turns in {shown.of}. “scan” and “aim” turn it.
        </p>
      ) : (
        <HeadTiming eye={eye} looks={looks} tick={tick} />
      )}
    </section>
  );
}

const WIDE = 330;
const LEFT = 46;
const LANE = 17;
const LANES = [
  { id: "move", fill: "var(--water)" },
  { id: "settle", fill: "var(--heather)" },
  { id: "ping", fill: "var(--amber)" },
  { id: "echo", fill: "var(--moss)" },
] as const;

/** The four stretches of a look, ticks: the head moves, settles, the ping is waited for, then the echo. */
function stretches(look: HeadLook): (readonly [number, number] | null)[] {
  const { movesTick, settlesTick, stillTick, pingTick, heardTick } = look;
  const between = (from: number | null, to: number | null) =>
    from === null || to === null ? null : ([from, to] as const);
  return [
    between(movesTick, settlesTick),
    between(settlesTick, stillTick),
    between(stillTick, pingTick),
    between(pingTick, heardTick),
  ];
}

function HeadTiming({ eye, looks, tick }: { eye: Eye; looks: readonly HeadLook[]; tick: number }) {
  const svg = useRef<SVGSVGElement>(null);
  const at = looks.filter(({ movesTick }) => movesTick <= tick).length;
  const first = Math.max(0, Math.min(looks.length - LOOKS_SHOWN, at - Math.ceil(LOOKS_SHOWN / 2)));
  const shown = looks.slice(first, first + LOOKS_SHOWN);
  const from = shown[0]?.movesTick ?? 0;
  const last = shown.at(-1);
  const to = Math.max(from + 20, (last?.heardTick ?? last?.pingTick ?? last?.stillTick ?? from) + 4);
  const x = useMemo(() => scaleLinear([from, to], [LEFT, WIDE - 8]), [from, to]);
  const high = LANES.length * LANE + 24;
  useEffect(() => {
    if (!svg.current) return;
    const seconds = scaleLinear([(from * TICK_MS) / 1000, (to * TICK_MS) / 1000], [LEFT, WIDE - 8]);
    const axis = select(svg.current).select<SVGGElement>("g.time");
    axis.call(
      axisBottom(seconds)
        .ticks(4)
        .tickSize(3)
        .tickFormat((value) => `${value} s`),
    );
    plainAxis(axis);
  }, [from, to]);
  useFollow(() => {
    const mark = svg.current?.querySelector(".playhead");
    const inside = playhead.tick >= from && playhead.tick <= to;
    mark?.setAttribute("visibility", inside ? "visible" : "hidden");
    mark?.setAttribute("transform", `translate(${x(playhead.tick)} 0)`);
  });
  const look = looks[Math.max(0, at - 1)];
  return (
    <>
      <svg
        ref={svg}
        className="headtiming"
        viewBox={`0 0 ${WIDE} ${high}`}
        role="img"
        aria-label={`Timing of ${eye.head}`}
      >
        {LANES.map(({ id }, i) => (
          <text key={id} x={0} y={i * LANE + 13} className="axis">
            {id}
          </text>
        ))}
        {shown.flatMap((one) =>
          stretches(one).map(
            (stretch, i) =>
              stretch && (
                <rect
                  key={`${one.movesTick} ${LANES[i]?.id}`}
                  x={x(stretch[0])}
                  y={i * LANE + 3}
                  width={Math.max(1.5, x(stretch[1]) - x(stretch[0]))}
                  height={LANE - 5}
                  rx={2}
                  fill={LANES[i]?.fill}
                />
              ),
          ),
        )}
        <g className="time" transform={`translate(0 ${LANES.length * LANE + 3})`} />
        <line className="playhead" y1={0} y2={LANES.length * LANE + 3} stroke="var(--ink)" strokeWidth={1.2} />
      </svg>
      {look && <LookWords look={look} />}
      <p className="row">
        <Step words="Look before" to={looks.filter(({ movesTick }) => movesTick < (look?.movesTick ?? 0)).at(-1)} />
        <Step words="Next look" to={looks.find(({ movesTick }) => movesTick > tick)} />
      </p>
    </>
  );
}

function Step({ words, to }: { words: string; to: HeadLook | undefined }) {
  return (
    <Button
      size="small"
      variant="outlined"
      disabled={!to}
      onClick={() => {
        if (!to) return;
        pause();
        movePlayhead(Math.ceil((to.heardTick ?? to.movesTick) / 10) * 10);
      }}
    >
      {words}
    </Button>
  );
}

function LookWords({ look }: { look: HeadLook }) {
  const [move, settle, ping, echo] = stretches(look).map((one) => (one ? (one[1] - one[0]) * TICK_MS : null));
  const ms = (value: number | null | undefined) => (value == null ? "–" : `${value} ms`);
  const all = look.heardTick === null ? null : (look.heardTick - look.movesTick) * TICK_MS;
  return (
    <p className="small">
      Look {bearingWords(look.bearingRad)}: moved {ms(move)}, settled {ms(settle)}, waited {ms(ping)} for its ping and{" "}
      {ms(echo)} for the echo.{" "}
      {all !== null &&
        `In all ${all} ms. It heard ${look.heardM === null ? "nothing" : `${plainDigits(look.heardM * 100, 1)} cm`}.`}
    </p>
  );
}
