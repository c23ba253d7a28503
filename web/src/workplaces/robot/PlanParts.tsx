// The parts of the plan as SVG, in millimetres, forward to the right and left up.
import type { Attachment, Robot, Sensor, Wheel } from "@giddy-pebble/core";
import { sensorKind } from "@giddy-pebble/core";

const mm = (metres: number) => metres * 1000;
const deg = (rad: number) => (rad * 180) / Math.PI;

export function points(outline: readonly (readonly [number, number])[]): string {
  return outline.map(([x, y]) => `${mm(x)},${-mm(y)}`).join(" ");
}

/**
 * Half of a roller as it is seen from above, mm: along and to the right. The rollers on top lie the other way than those
 * on the floor.
 */
function rollerStroke(axleRad: number, halfWidth: number, half: number): readonly [along: number, right: number] {
  if (Math.abs(axleRad) < 0.05) return [half, 0];
  const reach = Math.min(halfWidth / Math.abs(Math.sin(axleRad)), 1.6 * halfWidth);
  return [reach * Math.cos(axleRad) * Math.sign(axleRad), reach * Math.abs(Math.sin(axleRad))];
}

export function WheelShape({ wheel, steerRad }: { wheel: Wheel; steerRad: number }) {
  const length = mm(wheel.diameterM);
  const width = mm(wheel.widthM);
  const treads = Array.from({ length: 7 }, (_, i) => -length / 2 + ((i + 1) * length) / 8);
  const stroke = wheel.rollers
    ? rollerStroke(wheel.rollers.axleRad, width / 2 - 1.5, length / 18)
    : ([0, width / 2 - 1.5] as const);
  return (
    <g transform={`rotate(${-deg(wheel.aimRad + (wheel.steered ? steerRad : 0))})`}>
      <rect
        x={-length / 2}
        y={-width / 2}
        width={length}
        height={width}
        rx={Math.min(4, width / 4)}
        className="wheel"
      />
      {treads.map((x) => (
        <line
          key={x}
          x1={x - stroke[0]}
          x2={x + stroke[0]}
          y1={-stroke[1]}
          y2={stroke[1]}
          className={wheel.rollers ? "tread roller" : "tread"}
        />
      ))}
    </g>
  );
}

export function SupportShape({ support }: { support: NonNullable<Robot["support"]> }) {
  if (support.kind === "skid") return <rect x={-9} y={-4} width={18} height={8} rx={4} className="support" />;
  return (
    <>
      <circle r={7} className="support" />
      {support.kind === "caster" && (
        <rect x={-mm(support.trailM) - 6} y={-2.5} width={12} height={5} rx={1.5} className="wheel" />
      )}
    </>
  );
}

export function AttachmentShape({ part }: { part: Attachment }) {
  const length = mm(part.lengthM);
  const width = mm(part.widthM);
  return (
    <g transform={`rotate(${-deg(part.aimRad)})`}>
      {part.kind === "fork" || part.kind === "gripper" ? (
        <>
          <rect x={0} y={-width / 2} width={length} height={5} rx={2} className="attachment" />
          <rect x={0} y={width / 2 - 5} width={length} height={5} rx={2} className="attachment" />
          <rect x={0} y={-width / 2} width={6} height={width} rx={2} className="attachment" />
        </>
      ) : (
        <rect x={0} y={-width / 2} width={length} height={width} rx={3} className="attachment" />
      )}
      <circle r={3} className="hinge" />
    </g>
  );
}

export function SensorShape({ sensor }: { sensor: Sensor }) {
  return (
    <g transform={`rotate(${-deg(sensor.aimRad)})`}>
      {sensorKind(sensor)
        .drawing(sensor)
        .map(({ path, look }) => (
          <path key={path} d={path} className={look} />
        ))}
    </g>
  );
}
