// Finding a free port on loopback.
import net from "node:net";
import { SetupError, say } from "./say.mjs";

/** @param {number} port @returns {Promise<number | null>} the port bound (0 asks for any), or null when taken */
export function tryPort(port) {
  return new Promise((resolve) => {
    const server = net.createServer();
    server.once("error", () => resolve(null));
    server.listen({ host: "127.0.0.1", port, exclusive: true }, () => {
      const bound = /** @type {net.AddressInfo} */ (server.address()).port;
      server.close(() => resolve(bound));
    });
  });
}

/**
 * The wanted port, or the next free one. A port asked for by name (GIDDY_PORT) is not replaced silently.
 * @param {number} wanted
 * @param {boolean} insisted
 * @returns {Promise<number>}
 */
export async function choosePort(wanted, insisted) {
  if (!Number.isInteger(wanted) || wanted < 1 || wanted > 65535) {
    throw new SetupError("GIDDY_PORT must be a whole number from 1 to 65535.");
  }
  if ((await tryPort(wanted)) !== null) return wanted;
  if (insisted) throw new SetupError(`Port ${wanted} is taken by another program. Stop that program or choose another GIDDY_PORT.`);
  for (let port = wanted + 1; port < wanted + 50; port += 1) {
    if ((await tryPort(port)) !== null) {
      say(`port ${wanted} is taken, using ${port}`);
      return port;
    }
  }
  throw new SetupError(`Ports ${wanted} to ${wanted + 49} are all taken. Set GIDDY_PORT to a free one.`);
}

/**
 * Waits for a port that was ours a moment ago: what held it may be about to end.
 * @param {number} port
 * @param {number} mostMs
 */
export async function untilFree(port, mostMs) {
  const until = performance.now() + mostMs;
  while ((await tryPort(port)) === null && performance.now() < until) await new Promise((resolve) => setTimeout(resolve, 100));
}
