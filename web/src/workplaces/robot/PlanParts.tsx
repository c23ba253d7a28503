// The parts of the plan as SVG, in millimetres, forward to the right and left up.
import type { Attachment, Robot, Sensor, Wheel } from "@giddy-pebble/core";
import { floorOffsets } from "@giddy-pebble/core";

const mm = (metres: number) => metres * 1000;
const deg = (rad: number) => (rad * 180) / Math.PI;

export function points(outline: readonly (readonly [number, number])[]): string {
  return outline.map(([x, y]) => `${mm(x)},${-mm(y)}`).join(" ");
}

export function WheelShape({ wheel, steerRad }: { wheel: Wheel; steerRad: number }) {
  const length = mm(wheel.diameterM);
  const width = mm(wheel.widthM);
  const treads = Array.from({ length: 7 }, (_, i) => -length / 2 + ((i + 1) * length) / 8);
  return (
    <g transform={`rotate(${-deg(wheel.steered ? steerRad : 0)})`}>
      <rect
        x={-length / 2}
        y={-width / 2}
        width={length}
        height={width}
        rx={Math.min(4, width / 4)}
        className="wheel"
      />
      {treads.map((x) => (
        <line key={x} x1={x} x2={x} y1={-width / 2 + 1.5} y2={width / 2 - 1.5} className="tread" />
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
  const turn = `rotate(${-deg(sensor.aimRad)})`;
  switch (sensor.kind) {
    case "eye": {
      const half = Math.min(1.2, sensor.coneRad / 2);
      const reach = 64;
      const x = reach * Math.cos(half);
      const y = reach * Math.sin(half);
      return (
        <g transform={turn}>
          <path d={`M6 0 L${6 + x} ${-y} A${reach} ${reach} 0 0 1 ${6 + x} ${y} Z`} className="beam" />
          <rect x={-6} y={-13} width={12} height={26} rx={2.5} className="eye" />
          {sensor.head !== null && <circle r={17} className="head" />}
        </g>
      );
    }
    case "near":
      return (
        <g transform={turn}>
          <path
            d={`M4 0 L${4 + mm(sensor.thresholdM.value) * 0.5} -7 L${4 + mm(sensor.thresholdM.value) * 0.5} 7 Z`}
            className="beam"
          />
          <rect x={-5} y={-6} width={10} height={12} rx={2} className="eye" />
        </g>
      );
    case "bumper":
      return (
        <g transform={turn}>
          <rect x={-4} y={-mm(sensor.widthM) / 2} width={4} height={mm(sensor.widthM)} rx={2} className="bumper" />
          <line x1={-4} x2={-12} y1={-mm(sensor.widthM) / 4} y2={-mm(sensor.widthM) / 4} className="bracket" />
          <line x1={-4} x2={-12} y1={mm(sensor.widthM) / 4} y2={mm(sensor.widthM) / 4} className="bracket" />
        </g>
      );
    case "floor":
      return (
        <g>
          {floorOffsets(sensor.layout, sensor.count, sensor.spacingM).map((y) => (
            <circle key={y} cy={-mm(y)} r={Math.max(2.5, mm(sensor.spotM) / 2)} className="floorspot" />
          ))}
        </g>
      );
    case "tag":
      return (
        <g transform={turn}>
          <path d="M5 0 L17 -4 L17 4 Z" className="beam" />
          <rect x={-5} y={-5} width={10} height={10} rx={5} className="eye" />
        </g>
      );
    case "gyro":
      return (
        <g>
          <rect x={-7} y={-7} width={14} height={14} rx={3} className="gyro" />
          <path d="M-3.500 1.500A3.800 3.800 0 1 1 3.500 1.500" className="gyromark" />
        </g>
      );
    case "tilt":
      return (
        <g>
          <rect x={-7} y={-7} width={14} height={14} rx={3} className="gyro" />
          <path d="M-4 3L4 3L4 -3Z" className="gyromark" />
        </g>
      );
    case "potentiometer":
      return (
        <g>
          <circle r={6} className="gyro" />
          <line x2={4} y2={-4} className="gyromark" />
        </g>
      );
    case "button":
      return (
        <g>
          <circle r={6} className="gyro" />
          <circle r={2.5} className="floorspot" />
        </g>
      );
  }
}
