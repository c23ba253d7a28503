// The stand-ins' process: serves robots on loopback until it is asked to stop, or whoever started it is gone.
import { mkdirSync } from "node:fs";
import { z } from "zod";
import { DeviceServer } from "./host/server.js";

const config = z
  .object({
    GIDDY_DEVICE_DATA: z.string().min(1),
    GIDDY_DEVICE_PORT: z.coerce.number().int().min(0).max(65535).default(0),
    GIDDY_DEMO: z.string().optional(),
  })
  .parse(process.env);

mkdirSync(config.GIDDY_DEVICE_DATA, { recursive: true });
const server = new DeviceServer({
  folder: config.GIDDY_DEVICE_DATA,
  port: config.GIDDY_DEVICE_PORT,
  demo: config.GIDDY_DEMO,
});
const port = await server.listen();

const stop = () => void server.close().then(() => process.exit(0));
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
if (process.send) {
  process.on("disconnect", stop);
  process.send({ port });
} else process.stdout.write(`http://127.0.0.1:${port}/robots\n`);
