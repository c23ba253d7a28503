// The way of a robot link through this server: the page speaks to its own origin only, and the bytes of the
// upgraded connection are passed on to the robots' port as they are.
import type { IncomingMessage } from "node:http";
import net, { type Socket } from "node:net";

/** @returns the robot a link is asked for, or null for any other address */
export function linkedRobot(url: string | undefined): string | null {
  return /^\/link\/([a-z0-9-]{1,60})$/.exec(url ?? "")?.[1] ?? null;
}

export function passOn(request: IncomingMessage, page: Socket, head: Buffer, port: number, robot: string): void {
  const device = net.connect(port, "127.0.0.1");
  // Small frames go out at once: a stick moved is not kept waiting for more to send.
  device.setNoDelay(true);
  page.setNoDelay(true);
  const lines = [`GET /robots/${robot} HTTP/1.1`, `host: 127.0.0.1:${port}`];
  for (const [name, value] of Object.entries(request.headers))
    if (name === "connection" || name === "upgrade" || name.startsWith("sec-websocket-"))
      lines.push(`${name}: ${value}`);
  device.once("connect", () => {
    device.write(`${lines.join("\r\n")}\r\n\r\n`);
    if (head.length > 0) device.write(head);
    page.pipe(device);
    device.pipe(page);
  });
  // Either end gone ends the other: a robot whose driver's page is gone has to know at once.
  const end = () => {
    device.destroy();
    page.destroy();
  };
  device.once("error", () => {
    if (!page.destroyed && device.bytesRead === 0) page.end("HTTP/1.1 502 Bad Gateway\r\nconnection: close\r\n\r\n");
    end();
  });
  page.once("error", end);
  device.once("close", end);
  page.once("close", end);
}
