// The stand-ins' process: serves robots on loopback until it is asked to stop, or whoever started it is gone.
import { mkdirSync } from "node:fs";
import * as z from "zod";
import { DeviceServer } from "./host/server.js";

const config = z
  .object({
    GIDDY_DEVICE_DATA: z.string().min(1),
    GIDDY_DEVICE_PORT: z.coerce.number().int().min(0).max(65535).default(0),
    GIDDY_DEMO: z.string().optional(),
  })
  .parse(process.env);

mkdirSync(config.GIDDY_DEVICE_DATA, { recursive: true });
let door: DeviceServer | null = null;
let ending = false;
/** An error that nobody expected is written down and ends the process; whoever started it starts it again. */
const end = (error: unknown) => {
  process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  if (ending) return;
  ending = true;
  void door?.close();
  setTimeout(() => process.exit(70), 500);
};
process.on("uncaughtException", end);
process.on("unhandledRejection", end);

const server = new DeviceServer({
  folder: config.GIDDY_DEVICE_DATA,
  port: config.GIDDY_DEVICE_PORT,
  demo: config.GIDDY_DEMO,
  tell: (sentence) => process.stderr.write(`${sentence}\n`),
});
door = server;
const port = await server.listen();

const stop = () => {
  // Robots end by themselves in a second; one that does not is left behind with the process.
  setTimeout(() => process.exit(0), 3000).unref();
  void server.close().then(() => process.exit(0));
};
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
if (process.send) {
  process.on("disconnect", stop);
  process.send({ port }, undefined, undefined, () => {});
} else process.stdout.write(`http://127.0.0.1:${port}/robots\n`);
