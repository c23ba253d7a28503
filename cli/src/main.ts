import { CORE_VERSION } from "@giddy-pebble/core";

process.stdout.write(`${CORE_VERSION}\n`);
