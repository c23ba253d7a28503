export { exportSvg } from "./export.js";
export { importSvg, reflectanceOf, SVG_KINDS, type SvgChoice, type SvgKind, type SvgReading } from "./import.js";
export * from "./sketch.js";
