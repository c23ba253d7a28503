// Robots, calibrations and notes over HTTP, on a real database and the real robots' process.
import { readFileSync } from "node:fs";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { WebSocket } from "ws";
import { type RunningRobots, startRobots } from "../support/robots.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let robots: RunningRobots;
let server: RunningServer;

beforeAll(async () => {
  robots = await startRobots();
  server = await startServer({ robots: robots.port });
});
afterAll(async () => {
  await server.leave();
  await robots.stop();
});

const json = (address: string, method = "GET", body?: unknown) =>
  request(server, address, {
    method,
    headers: { "content-type": "application/json" },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });

describe("robots", () => {
  test("are listed, and one is built from a drawing", async () => {
    const { data } = await json("/api/robots");
    expect(data.robots.map(({ name }: { name: string }) => name)).toEqual([
      "Drizzle",
      "Flurry",
      "Fog",
      "Gust",
      "Sleet",
      "Thaw",
    ]);
    const robot = JSON.parse(readFileSync(`${process.env.GIDDY_DEMO}/gust.robot.json`, "utf8"));
    expect((await json("/api/robots", "POST", { robot: { ...robot, name: "Squall" } })).data.id).toBe("squall");
    expect((await json("/api/robots", "POST", { robot: { name: "nothing" } })).status).toBe(422);
  });

  test("are reached through the server, from its own page only, and link to first reading is quick", async () => {
    const open = (headers: Record<string, string>) =>
      new Promise<WebSocket | number>((resolve) => {
        const socket = new WebSocket(`${server.url.replace("http", "ws")}/link/drizzle`, "pebble-link.1", { headers });
        socket.on("open", () => resolve(socket));
        socket.on("unexpected-response", (_request, response) => resolve(response.statusCode ?? 0));
        socket.on("error", () => {});
      });
    expect(await open({ origin: "http://elsewhere.example" })).toBe(403);
    const begun = performance.now();
    const socket = await open({ origin: server.url });
    if (typeof socket === "number") throw new Error(`refused with ${socket}`);
    const kinds = await new Promise<string[]>((resolve) => {
      const seen: string[] = [];
      socket.on("message", (data: Buffer) => {
        seen.push(JSON.parse(data.toString("utf8")).kind);
        if (seen.at(-1) === "readings") resolve(seen);
      });
      for (const frame of [
        { kind: "hello", protocol: "pebble-link.1", who: "test" },
        { kind: "readings", ask: 1, on: true },
        { kind: "drive", seq: 1, left: 0.1, right: 0.1 },
      ])
        socket.send(JSON.stringify(frame));
    });
    process.stdout.write(`link to first reading: ${(performance.now() - begun).toFixed(0)} ms\n`);
    // The robot's hello may come with the upgrade, before anybody listens here.
    expect(kinds.filter((kind) => kind !== "hello").slice(0, 2)).toEqual(["state", "shelf"]);
    socket.terminate();
  });

  test("that do not answer are said to be started again", async () => {
    await robots.kill();
    const away = await json("/api/robots");
    expect(away.status).toBe(502);
    expect(away.data.detail).toContain("started again");
    await robots.again();
    expect((await json("/api/robots")).status).toBe(200);
  });
});

describe("calibrations", () => {
  test("are kept with their rows, and only for robots that are there", async () => {
    const { documents } = (await json("/api/documents?kind=robot")).data;
    const robot = documents[0].id;
    const rows = [{ values: { alongM: 2, asideM: null }, struck: false, recorded: [1, 2] }];
    const made = { robot, quantity: "wheel-size", rows, result: { title: "One turn" }, appliedRevision: null };
    expect((await json("/api/calibrations", "POST", made)).status).toBe(201);
    const { calibrations } = (await json(`/api/calibrations?robot=${robot}`)).data;
    expect(calibrations[0]).toMatchObject({ quantity: "wheel-size", rows, appliedNumber: null });
    const stranger = "00000000-0000-4000-8000-000000000000";
    expect((await json("/api/calibrations", "POST", { ...made, robot: stranger })).status).toBe(422);
    expect((await json("/api/calibrations", "POST", { ...made, appliedRevision: stranger })).status).toBe(422);
    expect((await json("/api/calibrations", "POST", { ...made, rows: "many" })).status).toBe(400);
  });

  test("a note on a run that is not there is refused", async () => {
    const answer = await json("/api/trials/00000000-0000-4000-8000-000000000000", "PATCH", { note: "x" });
    expect(answer.status).toBe(404);
  });
});
