// How axes look everywhere: small words, thin lines.
import type { Selection } from "d3";

/** Call after the axis was drawn into its group. */
export function plainAxis(axis: Selection<SVGGElement, unknown, null, undefined>): void {
  axis.selectAll("text").attr("class", "axis");
  axis.selectAll("line, path").attr("stroke", "var(--hair)");
}
