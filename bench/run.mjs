// npm run bench: the core's figures, those of an application with much in it, and those of the pages. The applications are the
// benches' own: nothing is left behind.
await import("./physics.mjs");
const { engines } = await import("./engines.mjs");
await engines();
await import("./growth.mjs");
await import("./pages.mjs");
await import("./field.mjs");
await import("./frames.mjs");
await import("./typing.mjs");
await import("./studies.mjs");
await import("./link.mjs");
const { end } = await import("./lib/own.mjs");
await end();
