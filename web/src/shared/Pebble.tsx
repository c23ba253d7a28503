// The pebble: a slightly lopsided ellipse, the one ornament.
export type PebbleFill = "hollow" | "half" | "full" | "ink" | "stone" | "rust" | "water" | "amber";

export const PEBBLE_PATH =
  "M1.6 7.2C1.2 3.6 5 1 10.4 1c5.6 0 9.7 2.3 9.9 6 .2 3.9-4 6-9.9 6-5.4 0-8.400-2.200-8.800-5.800Z";

const FILLS: Record<PebbleFill, readonly [fill: string, stroke: string, ink: string]> = {
  hollow: ["none", "var(--hair)", "var(--quiet)"],
  half: ["var(--amber-soft)", "var(--amber)", "var(--ink)"],
  full: ["var(--water)", "var(--water)", "var(--sheet)"],
  ink: ["var(--ink)", "var(--ink)", "var(--sheet)"],
  stone: ["var(--stone)", "var(--stone)", "var(--stone-ink)"],
  rust: ["var(--rust)", "var(--rust)", "var(--sheet)"],
  water: ["var(--water)", "var(--water)", "var(--sheet)"],
  amber: ["var(--amber-soft)", "var(--amber)", "var(--ink)"],
};

export function Pebble({ fill, text = "", width = 22 }: { fill: PebbleFill; text?: string; width?: number }) {
  const [inside, stroke, ink] = FILLS[fill];
  return (
    <svg width={width} height={(width * 14) / 22} viewBox="0 0 22 14" aria-hidden="true" overflow="visible">
      <path
        d={PEBBLE_PATH}
        fill={inside}
        stroke={stroke}
        strokeWidth={fill === "hollow" || fill === "half" ? 1.5 : 1}
      />
      {text !== "" && (
        <text
          x="11"
          y="10"
          textAnchor="middle"
          fontSize={text.length > 2 ? 6.5 : 8.5}
          fontWeight={650}
          fill={ink}
          fontFamily="var(--words)"
        >
          {text}
        </text>
      )}
    </svg>
  );
}
