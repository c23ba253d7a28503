export { exportSvg } from "./export.js";
export { importSvg, SVG_KINDS, type SvgChoice, type SvgKind, type SvgReading } from "./import.js";
