// The way of a robot link through this server: the page speaks to its own origin only, and the bytes of the
// upgraded connection are passed on to the robots' port as they are.
import type { IncomingMessage } from "node:http";
import net from "node:net";
import type { Duplex } from "node:stream";
import { refusal } from "./guard.js";

/** @returns where at the robots' port a robot's link or a board's line is, or null for any other address */
function passedOn(url: string | undefined): string | null {
  const robot = /^\/link\/([a-z0-9-]{1,60})$/.exec(url ?? "")?.[1];
  if (robot) return `/robots/${robot}`;
  const board = /^\/board\/([a-z0-9-]{1,60}\/(?:avr|micropython))$/.exec(url ?? "")?.[1];
  return board ? `/boards/${board}` : null;
}

/** Answers an upgrade: a robot's link or a board's line is passed on, anything else is turned away. @param port - of the robots */
export function answerUpgrade(request: IncomingMessage, page: Duplex, head: Buffer, port: number | undefined): void {
  // From here on the socket is nobody's but ours: one that is reset at once must not end the process.
  page.on("error", () => page.destroy());
  const turn = (status: string) => page.end(`HTTP/1.1 ${status}\r\nconnection: close\r\n\r\n`);
  if (refusal(request)) return void turn("403 Forbidden");
  const place = passedOn(request.url);
  if (place === null || port === undefined) return void turn("404 Not Found");
  passOn(request, page, head, port, place);
}

function passOn(request: IncomingMessage, page: Duplex, head: Buffer, port: number, place: string): void {
  const device = net.connect(port, "127.0.0.1");
  // Small frames go out at once: a stick moved is not kept waiting for more to send.
  device.setNoDelay(true);
  if (page instanceof net.Socket) page.setNoDelay(true);
  const lines = [`GET ${place} HTTP/1.1`, `host: 127.0.0.1:${port}`];
  for (const [name, value] of Object.entries(request.headers))
    if (name === "connection" || name === "upgrade" || name.startsWith("sec-websocket-"))
      lines.push(`${name}: ${value}`);
  // Either end gone ends the other: a robot whose driver's page is gone has to know at once.
  const end = () => {
    device.destroy();
    page.destroy();
  };
  device.once("connect", () => {
    device.write(`${lines.join("\r\n")}\r\n\r\n`);
    if (head.length > 0) device.write(head);
    page.pipe(device);
    device.pipe(page);
  });
  device.on("error", () => {
    if (!page.destroyed && device.bytesRead === 0)
      page.end("HTTP/1.1 502 Bad Gateway\r\nconnection: close\r\n\r\n", () => end());
    else end();
  });
  device.once("close", () => page.end(() => page.destroy()));
  page.once("close", end);
}
