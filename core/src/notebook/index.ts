export * from "./drawings.js";
export * from "./out.js";
export * from "./pages.js";
export * from "./schema.js";
