// npm runs this after an install: the parts that others are made of are built. `npm start` and `npm test` build
// them by themselves a moment later, and say so to npm.
import { passThrough } from "./lib/command.mjs";
import { BUILDS_LATER } from "./lib/modules.mjs";

if (!process.env[BUILDS_LATER]) process.exitCode = await passThrough("npm", ["run", "--silent", "build:parts"], {});
