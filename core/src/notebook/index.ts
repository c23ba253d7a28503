export * from "./charts.js";
export * from "./decisions.js";
export * from "./drawings.js";
export * from "./out.js";
export * from "./pages.js";
export * from "./pieces.js";
export * from "./runPage.js";
export * from "./schema.js";
