// What the server says on connections whose request is broken, late, or never comes: a real one, with short limits.
import { once } from "node:events";
import http from "node:http";
import net from "node:net";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { answerBroken } from "../../src/host/broken.js";

let server: http.Server;
beforeAll(async () => {
  server = http.createServer({ connectionsCheckingInterval: 20 }, (request, response) => {
    request.on("error", () => {});
    request.resume().once("end", () => response.end("well"));
  });
  server.headersTimeout = 60;
  server.requestTimeout = 60;
  server.on("clientError", (error, socket) => answerBroken(error, socket as net.Socket));
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
});
afterAll(() => {
  server.close();
  server.closeAllConnections();
});

/** All that is said to a connection on which this was sent, until the server closes it. */
async function said(sent: string): Promise<string> {
  const socket = net.connect((server.address() as net.AddressInfo).port, "127.0.0.1");
  await once(socket, "connect");
  let text = "";
  socket.on("data", (part) => {
    text += part;
  });
  if (sent !== "") socket.write(sent);
  await once(socket, "close");
  return text;
}

describe("a connection", () => {
  test("on which nothing is sent is closed without a word", async () => {
    expect(await said("")).toBe("");
  });

  test.each([
    ["half a line", "GET / HT"],
    ["half the headers", "GET / HTTP/1.1\r\nHost: x\r\n"],
    ["half a body", "POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 10\r\n\r\nhalf"],
  ])("on which only %s comes is told that it took too long", async (_what, sent) => {
    expect(await said(sent)).toMatch(/^HTTP\/1\.1 408 Request Timeout\r\nconnection: close\r\n\r\n$/);
  });

  test.each([
    ["no request", "nonsense\r\n\r\n"],
    ["a header that is none", "GET / HTTP/1.1\r\nHost: x\r\nbro ken\r\n\r\n"],
    ["two lengths", "POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\nab"],
  ])("on which %s comes is told so", async (_what, sent) => {
    expect(await said(sent)).toMatch(/^HTTP\/1\.1 400 Bad Request\r\nconnection: close\r\n\r\n$/);
  });
});
