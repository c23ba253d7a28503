// Connections that are opened wrongly, cut in the middle, or never speak; and links that send what no page sends.
import net from "node:net";
import { WebSocket } from "ws";
import { NUMBERS, oddValue, TEXTS } from "./chance.mjs";
import { failure } from "./counts.mjs";

/** @typedef {import("./chance.mjs").Chance} Chance */
/** @typedef {import("./requests.mjs").Target} Target */

const ROBOTS = ["drizzle", "gust", "fog", "sleet"];
const UPGRADE = "upgrade: websocket\r\nconnection: Upgrade\r\nsec-websocket-key: dGhlIHNhbXBsZSBub25jZQ==\r\nsec-websocket-version: 13\r\n";

/** A raw connection that is reset or cut. @param {Chance} chance @param {Target} target @returns {Promise<void>} */
export function oddSocket(chance, target) {
  const webPort = Number(new URL(target.url).port);
  const port = chance.pick([webPort, webPort, target.robotsPort]);
  const host = `127.0.0.1:${port}`;
  const path = chance.pick(["/nowhere", "/link/drizzle", "/link/nobody", "/robots/drizzle", "/robots/x", "/", "//", "/link/"]);
  const opening = chance.pick([
    `GET ${path} HTTP/1.1\r\nhost: ${host}\r\n${UPGRADE}\r\n`,
    `GET ${path} HTTP/1.1\r\nhost: ${host}\r\norigin: http://evil.example\r\n${UPGRADE}\r\n`,
    `GET ${path} HTTP/1.1\r\nhost: ${host}\r\nupgrade: h2c\r\nconnection: Upgrade\r\n\r\n`,
    `GET ${path} HTTP/1.1\r\nhost: evil.example\r\n${UPGRADE}\r\n`,
    `GET ${path} HTTP/1.1\r\nhost: ${host}\r\n${UPGRADE}sec-websocket-protocol: pebble-link.1\r\n\r\n\x81\xfe`,
    `POST /robots HTTP/1.1\r\nhost: ${host}\r\ncontent-type: application/json\r\ncontent-length: 100000\r\n\r\n{"robot":`,
    `POST /api/documents HTTP/1.1\r\nhost: ${host}\r\ncontent-type: application/json\r\ncontent-length: 100000\r\n\r\n{"kind":`,
    `POST /api/documents HTTP/1.1\r\nhost: ${host}\r\ncontent-type: application/json\r\ntransfer-encoding: chunked\r\n\r\nfffff\r\n{"kin`,
    "GARBAGE\r\n\r\n",
    "\x16\x03\x01\x02\x00",
    `GET /mission HTTP/1.1\r\nhost: ${host}\r\nx: ${"y".repeat(40_000)}\r\n\r\n`,
    `GET /mission HTTP/1.1\r\nhost: ${host}\r\n`,
    "",
  ]);
  target.counts.sockets += 1;
  return new Promise((resolve) => {
    const socket = net.connect(port, "127.0.0.1");
    socket.on("error", () => {});
    socket.on("close", () => resolve());
    socket.on("connect", () => {
      socket.write(Buffer.from(opening, "latin1"));
      const how = chance.below(3);
      if (how === 0) socket.resetAndDestroy();
      else if (how === 1) setTimeout(() => socket.resetAndDestroy(), chance.below(20));
      else setTimeout(() => socket.destroy(), chance.below(40));
    });
  });
}

/** @param {Chance} chance */
function oddFrame(chance) {
  const n = () => chance.pick(NUMBERS);
  return chance.pick([
    () => JSON.stringify({ kind: "place", ask: 1, begin: { name: "here", xM: n(), yM: n(), headingRad: n() }, how: "eye", fieldOf: null }),
    () =>
      JSON.stringify({
        kind: "place",
        ask: 1,
        begin: { name: "here", xM: chance.uniform() * 4, yM: chance.uniform() * 4, headingRad: chance.uniform() * 6 },
        how: "jig",
        fieldOf: null,
      }),
    () => JSON.stringify({ kind: "drive", seq: chance.below(1e6), left: chance.uniform() * 2 - 1, right: n() }),
    () => JSON.stringify({ kind: "drive", seq: chance.below(1e6), left: chance.uniform() * 2 - 1, right: chance.uniform() * 2 - 1 }),
    () => JSON.stringify({ kind: "hands", seq: n(), sticks: [n(), n(), 0, 0], levels: [0, 0, 0, 0], buttons: n() }),
    () => JSON.stringify({ kind: "pace", ask: 1, times: n() }),
    () => JSON.stringify({ kind: "pace", ask: 1, times: 20 }),
    () => JSON.stringify({ kind: "pack", ask: 1, charge: n() }),
    () => JSON.stringify({ kind: "radio", ask: 1, delayMs: n(), jitterMs: n(), loss: n(), rangeM: n() }),
    () => JSON.stringify({ kind: "put", ask: n(), name: chance.pick(TEXTS), bytes: n(), sha256: "0".repeat(64), label: "", origin: "" }),
    () => JSON.stringify({ kind: "part", ask: 1, at: n(), text: chance.pick(TEXTS) }),
    () => JSON.stringify({ kind: "run", ask: 1, name: chance.pick(TEXTS) }),
    () => JSON.stringify({ kind: "remove", ask: 1, name: chance.pick(TEXTS) }),
    () =>
      JSON.stringify({
        kind: "fault",
        ask: 1,
        // Not "late-packets": answers are then late on purpose, those of a halt as well.
        fault: chance.pick(["tired-pack", "unplugged", "none", "x"]),
        part: chance.pick(TEXTS),
      }),
    () => JSON.stringify({ kind: "press", ask: 1, button: chance.pick(TEXTS), down: true }),
    () => JSON.stringify({ kind: "trace", ask: 1 }),
    () => JSON.stringify({ kind: "tape", ask: 1 }),
    () => JSON.stringify({ kind: "readings", ask: 1, on: true }),
    () => JSON.stringify({ kind: "leave", ask: 1 }),
    () => JSON.stringify({ kind: "halt", ask: 1 }),
    () => JSON.stringify(oddValue(chance)),
    () => chance.pick(TEXTS),
    () => "x".repeat(chance.pick([100, 33_000, 120_000])),
    () => Buffer.alloc(chance.below(2000), chance.below(256)),
  ])();
}

/** A link that sends nonsense for a while. @param {Chance} chance @param {Target} target @returns {Promise<void>} */
export function oddLink(chance, target) {
  const { counts } = target;
  counts.links += 1;
  const robot = chance.pick(ROBOTS);
  const through = chance.maybe(0.5);
  const address = through ? `${target.url.replace("http", "ws")}/link/${robot}` : `ws://127.0.0.1:${target.robotsPort}/robots/${robot}`;
  const greets = chance.maybe(0.8);
  let left = 20 + chance.below(180);
  return new Promise((resolve) => {
    const socket = new WebSocket(address, "pebble-link.1", { handshakeTimeout: 8000 });
    const over = setTimeout(() => socket.terminate(), 10_000);
    socket.on("error", () => {});
    socket.on("close", () => {
      clearTimeout(over);
      resolve();
    });
    socket.on("message", (data, isBinary) => {
      if (isBinary) return;
      const text = data.toString();
      if (/(:|\[|,)(NaN|-?Infinity)\b/.test(text) || (text.includes('"readings"') && /:null[,}]/.test(text.replace(/"seen":null/g, "")))) {
        counts.nulls += 1;
        failure(counts, `a number that is none in a frame: ${text.slice(0, 400)}`);
      }
    });
    socket.on("open", () => {
      if (greets) socket.send(JSON.stringify({ kind: "hello", protocol: "pebble-link.1", who: "soak" }));
      // One that asks again and again and does not read what comes.
      if (chance.maybe(0.15)) socket.pause();
      const send = () => {
        for (let i = 0; i < 10 && left > 0 && socket.readyState === socket.OPEN; i += 1) {
          socket.send(oddFrame(chance), () => {});
          counts.frames += 1;
          left -= 1;
        }
        if (socket.readyState !== socket.OPEN) return;
        if (left <= 0) socket.terminate();
        else setTimeout(send, 5);
      };
      send();
    });
  });
}
