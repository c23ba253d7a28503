// A picture of what a distance sensor hears, as the robot sees it: ahead is up, left is left. What it cannot look at is
// hatched.
import { plainDigits } from "@giddy-pebble/core";
import { type ReactNode, useId } from "react";

const PX = 150;
const MIDDLE = PX / 2;
const RADIUS = MIDDLE - 4;

/** Turns a direction against the chassis (rad, left positive) and a distance (m) into "x,y" of the picture. */
type PolarPlace = (rad: number, metres: number) => string;

export function Polar({
  label,
  reachM,
  sectorRad,
  nearM,
  children,
}: {
  label: string;
  /** Distance at the rim, m. */
  reachM: number;
  /** Directions it can look in, half its cone included, rad. */
  sectorRad: readonly [number, number];
  /** Nearer than this it cannot measure, m; left out where that does not matter. */
  nearM?: number;
  children: (at: PolarPlace) => ReactNode;
}) {
  const hatch = useId();
  const at: PolarPlace = (rad, metres) => {
    const r = (Math.min(reachM, metres) / reachM) * RADIUS;
    return `${plainDigits(MIDDLE - r * Math.sin(rad), 1)},${plainDigits(MIDDLE - r * Math.cos(rad), 1)}`;
  };
  const [low, high] = sectorRad;
  const whole = high - low >= 2 * Math.PI;
  const rim = Array.from({ length: 25 }, (_, i) => at(low + ((high - low) * i) / 24, reachM));
  return (
    <svg className="polarpicture" viewBox={`0 0 ${PX} ${PX}`} role="img" aria-label={label}>
      <defs>
        <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="5" stroke="var(--hair)" strokeWidth="1.5" />
        </pattern>
      </defs>
      <circle cx={MIDDLE} cy={MIDDLE} r={RADIUS} fill={`url(#${hatch})`} />
      <circle className="ring" cx={MIDDLE} cy={MIDDLE} r={RADIUS} />
      {whole ? (
        <circle className="sector" cx={MIDDLE} cy={MIDDLE} r={RADIUS} />
      ) : (
        <polygon className="sector" points={`${MIDDLE},${MIDDLE} ${rim.join(" ")}`} />
      )}
      {nearM !== undefined && (
        <circle cx={MIDDLE} cy={MIDDLE} r={Math.min(1, nearM / reachM) * RADIUS} fill={`url(#${hatch})`} />
      )}
      {children(at)}
      <circle className="self" cx={MIDDLE} cy={MIDDLE} r="3" />
    </svg>
  );
}
