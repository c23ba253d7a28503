// What came of a run, told apart by shape as well as by colour: a whole pebble, or one that is split. Words stand beside.
import { PEBBLE_PATH } from "./Pebble.js";

export function OutcomeMark({ worked, width = 18 }: { worked: boolean; width?: number }) {
  return (
    <svg
      className="outcomemark"
      width={width}
      height={(width * 14) / 22}
      viewBox="0 0 22 14"
      aria-hidden="true"
      overflow="visible"
    >
      <path
        d={PEBBLE_PATH}
        fill={worked ? "var(--water)" : "none"}
        stroke={worked ? "var(--water)" : "var(--rust)"}
        strokeWidth={worked ? 1 : 2}
      />
      {!worked && (
        <path
          className="split"
          d="M13.500 0.500 L9 6 L12.500 8 L8 13.500"
          fill="none"
          stroke="var(--rust)"
          strokeWidth="2"
        />
      )}
    </svg>
  );
}
