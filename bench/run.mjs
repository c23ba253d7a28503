// npm run bench: the core's figures, and those of an application with much in it; with a running Giddy Pebble also those of the page.
await import("./physics.mjs");
const { engines } = await import("./engines.mjs");
await engines();
await import("./growth.mjs");
await import("./pages.mjs");
await import("./field.mjs");
const url = process.env.GIDDY_URL ?? "http://127.0.0.1:4620";
const runs = await fetch(`${url}/api/health`).then(
  (answer) => answer.ok,
  () => false,
);
if (runs) {
  await import("./typing.mjs");
  await import("./studies.mjs");
  await import("./link.mjs");
} else process.stdout.write("(start Giddy Pebble to measure the page too)\n");
