// The core and what it needs in one file for Node: the 300 of its own, and the 200 of other packages, take more than
// twice as long to be read. Pages take what they need from those.
import path from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

await build({
  entryPoints: [path.join(root, "core/dist/index.js")],
  outfile: path.join(root, "core/dist/node.js"),
  bundle: true,
  format: "esm",
  platform: "node",
  target: "node20",
  // Names stay, for those who read a trace.
  minifyWhitespace: true,
  minifySyntax: true,
  sourcemap: false,
  logLevel: "warning",
  logOverride: { "large-output": "silent" },
});
