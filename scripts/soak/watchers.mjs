// What has to go on through everything: work that was acknowledged stays, a robot is halted at once, memory stays small.
import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { WebSocket } from "ws";
import { failure } from "./counts.mjs";
import { ask } from "./requests.mjs";

/** @typedef {import("./requests.mjs").Target} Target */
/** @typedef {import("./chance.mjs").Chance} Chance */

/** Longest a halt may take, ms. */
const MOST_HALT_MS = 100;
const json = { "content-type": "application/json" };

/** Saves missions and remembers what was acknowledged. @param {Target} target */
export function writer(target) {
  /** Text of each document's newest acknowledged save. @type {Map<string, { text: string, version: number, revision: number }>} */
  const kept = new Map();
  let serial = 0;

  /** @param {Chance} chance */
  async function write(chance) {
    const { url, counts } = target;
    serial += 1;
    const text = `cairn 1\nmission\n  go ${chance.below(100) + 1} cm\n  # ${serial} ${chance.below(1e9)}\n`;
    const known = [...kept.entries()];
    if (known.length < 3 || (chance.maybe(0.1) && known.length < 60)) {
      const answer = await ask(
        `${url}/api/documents`,
        "POST",
        json,
        JSON.stringify({ kind: "mission", name: `Kept ${process.pid} ${serial} ${chance.below(1e9)}`, text }),
      );
      if (answer?.status !== 201) return;
      counts.writes += 1;
      kept.set(JSON.parse(answer.text).document.id, { text, version: 0, revision: 1 });
      return;
    }
    const [id, before] = chance.pick(known);
    // A save whose answer was lost may have been kept: what is there now is asked for first.
    const now = await ask(`${url}/api/documents/${id}`, "GET", {}, null);
    if (now?.status !== 200) return;
    const { draft, document } = JSON.parse(now.text);
    const version = draft?.version ?? 0;
    if (version < before.version) {
      counts.lostWrites += 1;
      failure(counts, `a save that was acknowledged is gone: ${id} has draft ${version}, ${before.version} was acknowledged`);
    }
    const saved = await ask(
      `${url}/api/documents/${id}/draft`,
      "PUT",
      { ...json, "if-match": `"${version}"` },
      JSON.stringify({ baseRevision: document.headRevision, text }),
    );
    if (saved?.status !== 200) return;
    counts.writes += 1;
    kept.set(id, { text, version: JSON.parse(saved.text).version, revision: document.headRevision });
  }

  /** Reads everything back. A save whose answer was lost may stand above the last that was acknowledged. */
  async function verify() {
    const { url, counts } = target;
    for (const [id, { text, version }] of kept) {
      const answer = await ask(`${url}/api/documents/${id}`, "GET", {}, null, 30_000);
      if (answer?.status !== 200) {
        counts.lostWrites += 1;
        failure(counts, `an acknowledged document is gone: ${id} (${answer?.status})`);
        continue;
      }
      const { draft, head } = JSON.parse(answer.text);
      const found = draft?.version ?? 0;
      if (found < version || (found === version && (draft?.text ?? head.text) !== text)) {
        counts.lostWrites += 1;
        failure(counts, `an acknowledged save is gone: ${id}`);
      }
    }
    return kept.size;
  }
  return { write, verify };
}

/** Missions that keep a robot as busy as a mission can. */
const BUSY = [
  "cairn 1\nmission\n  repeat\n    repeat 9000 times\n      note a = clock\n    wait 0.01 s\n",
  "cairn 1\nroutine spin()\n  set i = 0\n  repeat\n    set i = i + 1\nmission\n  start spin()\n  start spin()\n  roll 20 cm/s turning left 90 deg/s\n  wait 60 s\n",
  'cairn 1\nmission\n  repeat\n    show "round" clock\n    light 50 %\n    beep\n    go 2 cm\n    back 2 cm\n',
];

/** @param {string} address @returns {Promise<WebSocket | null>} greeted, or null when it cannot be had */
function greet(address) {
  return new Promise((resolve) => {
    const socket = new WebSocket(address, "pebble-link.1", { handshakeTimeout: 5000 });
    const give = (/** @type {WebSocket | null} */ value) => {
      clearTimeout(over);
      resolve(value);
    };
    const over = setTimeout(() => {
      socket.terminate();
      give(null);
    }, 8000);
    socket.on("error", () => give(null));
    socket.on("close", () => give(null));
    socket.on("open", () => socket.send(JSON.stringify({ kind: "hello", protocol: "pebble-link.1", who: "soak" })));
    socket.on("message", (data, isBinary) => {
      if (!isBinary && data.toString().startsWith('{"kind":"shelf"')) give(socket);
    });
  });
}

/** @param {WebSocket} socket @param {Record<string, unknown>} frame @param {number} number @returns {Promise<{ ok: boolean, ms: number, why: string } | null>} */
function request(socket, frame, number) {
  return new Promise((resolve) => {
    const begun = performance.now();
    const give = (/** @type {any} */ value) => {
      clearTimeout(over);
      socket.off("message", hear);
      socket.off("close", gone);
      resolve(value);
    };
    const over = setTimeout(() => give(null), 8000);
    const gone = () => give(null);
    const hear = (/** @type {import("ws").RawData} */ data, /** @type {boolean} */ isBinary) => {
      if (isBinary) return;
      const text = data.toString();
      if (!text.includes(`"ask":${number}`)) return;
      const { kind, why } = JSON.parse(text);
      if (kind === "done" || kind === "refused") give({ ok: kind === "done", ms: performance.now() - begun, why: why ?? "" });
    };
    socket.on("message", hear);
    socket.on("close", gone);
    socket.send(JSON.stringify({ ...frame, ask: number }), () => {});
  });
}

/** Runs a busy mission on a robot and halts it: the halt has to be answered at once. @param {Chance} chance @param {Target} target @param {unknown} robot */
export async function haltOnce(chance, target, robot) {
  const { counts } = target;
  const id = String(/** @type {{ name: string }} */ (robot).name).toLowerCase();
  const socket = await greet(`ws://127.0.0.1:${target.robotsPort}/robots/${id}`);
  if (!socket) return;
  try {
    const payload = JSON.stringify({ format: "giddy-pebble/package", version: 1, text: chance.pick(BUSY), robot, field: null });
    const sha256 = createHash("sha256").update(payload).digest("hex");
    await request(socket, { kind: "put", name: "Busy", bytes: Buffer.byteLength(payload), sha256, label: "", origin: "" }, 1);
    let last = null;
    for (let at = 0, ask = 2; at < payload.length; at += 8000, ask += 1)
      last = await request(socket, { kind: "part", at, text: payload.slice(at, at + 8000) }, ask);
    if (!last?.ok) return;
    const ran = await request(socket, { kind: "run", name: "Busy" }, 900);
    if (!ran?.ok) return;
    await new Promise((resolve) => setTimeout(resolve, 200 + chance.below(600)));
    const calm = target.quiet();
    const halted = await request(socket, { kind: "halt" }, 901);
    if (!halted) return;
    counts.halts += 1;
    if (!calm || !target.quiet()) return;
    counts.longestHaltMs = Math.max(counts.longestHaltMs, Math.round(halted.ms));
    if (halted.ms > MOST_HALT_MS) failure(counts, `a halt of ${id} took ${Math.round(halted.ms)} ms`);
  } finally {
    socket.terminate();
  }
}

/** @param {number} pid @returns {number} resident memory, MB; 0 when it cannot be read */
export function residentMb(pid) {
  try {
    const found = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, "utf8"));
    return found ? Number(found[1]) / 1024 : 0;
  } catch {
    return 0;
  }
}
