// A stick for a finger or the mouse: pulled from its middle, springs back when it is let go.
import { type PointerEvent, useEffect, useRef } from "react";
import { held, touched } from "./hands.js";

const REACH = 30;

/** @param axes - places of forward and across among the handset's sticks */
export function TouchStick({
  label,
  axes,
}: {
  label: string;
  axes: readonly (readonly [forward: number, across: number])[];
}) {
  const knob = useRef<SVGCircleElement>(null);
  const holding = useRef(false);
  const put = (forward: number, across: number) => {
    for (const [f, a] of axes) {
      if (f >= 0) touched.sticks[f] = forward;
      if (a >= 0) touched.sticks[a] = across;
    }
  };
  useEffect(() => {
    const show = () => {
      const [f, a] = axes[0] ?? [0, 1];
      const forward = f >= 0 ? (held.now.sticks[f] ?? 0) : 0;
      const across = a >= 0 ? (held.now.sticks[a] ?? 0) : 0;
      knob.current?.setAttribute("cx", String(50 - across * REACH));
      knob.current?.setAttribute("cy", String(50 - forward * REACH));
    };
    held.listeners.add(show);
    show();
    return () => {
      held.listeners.delete(show);
    };
  }, [axes]);
  const pull = (event: PointerEvent<SVGSVGElement>) => {
    if (!holding.current) return;
    const box = event.currentTarget.getBoundingClientRect();
    const dx = ((event.clientX - box.left) / box.width) * 100 - 50;
    const dy = ((event.clientY - box.top) / box.height) * 100 - 50;
    const far = Math.max(1, Math.hypot(dx, dy) / REACH);
    put(-dy / far / REACH, -dx / far / REACH);
  };
  const release = () => {
    holding.current = false;
    put(0, 0);
  };
  return (
    <svg
      className="touchstick"
      viewBox="0 0 100 100"
      role="img"
      aria-label={label}
      onPointerDown={(event) => {
        holding.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
        pull(event);
      }}
      onPointerMove={pull}
      onPointerUp={release}
      onPointerCancel={release}
      onLostPointerCapture={release}
    >
      <circle className="well" cx="50" cy="50" r="46" />
      <path className="cross" d="M50 12V88M12 50H88" />
      <circle ref={knob} className="knob" cx="50" cy="50" r="15" />
    </svg>
  );
}
