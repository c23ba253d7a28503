// The core in one file for Node: the 300 of its own take nearly twice as long to be read. Pages take what they need from those.
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
  // Other packages stay what they are: there is one of each in a process.
  packages: "external",
  sourcemap: false,
  logLevel: "warning",
  logOverride: { "large-output": "silent" },
});
