// Linking robots in the real page, and speaking to their process beside it.
import type { Page } from "puppeteer-core";
import { expect } from "vitest";
import { WebSocket } from "ws";
import { saidInPassing } from "./browser.js";
import { press } from "./mission.js";
import type { RunningRobots } from "./robots.js";

/**
 * Links that were cut on purpose, and what a server started anew answers until it is ready (503, "Starting"),
 * are reported by the browser; nothing else may be.
 */
export function unexpected(troubles: readonly string[]): string[] {
  return troubles.filter((trouble) => !/WebSocket connection|status of 50[23]|ERR_CONNECTION/.test(trouble));
}

/** Waits for words on the page; what it says instead comes with the failure. */
export async function says(page: Page, words: string | RegExp): Promise<void> {
  try {
    await page.waitForFunction(
      (wanted: string) => new RegExp(wanted, "s").test(document.body.textContent ?? ""),
      {},
      typeof words === "string" ? words.replace(/[.*+?^${}()|[\]\\]/g, "\\$&") : words.source,
    );
  } catch {
    throw new Error(`the page never said ${words}; ${await wordsInstead(page)}`);
  }
}

/**
 * What the page says in passing from here on: nobody knows how long that stands there on a computer with much to do.
 * @returns waits until it was said
 */
export async function saysInPassing(page: Page): Promise<(words: string) => Promise<void>> {
  const before = (await saidInPassing(page)).length;
  return async (words) => {
    await expect
      .poll(async () => (await saidInPassing(page)).slice(before).join(" | "), { timeout: 90_000 })
      .toContain(words);
  };
}

/** What a page says that does not say what is waited for. */
export async function wordsInstead(page: Page): Promise<string> {
  const said = await page.evaluate(() =>
    [...document.body.children].map((one) => (one.tagName === "SCRIPT" ? "" : one.textContent)).join(" "),
  );
  const passing = await saidInPassing(page);
  return `it said in passing: ${passing.join(" | ")}; it says:\n${said}`;
}

/** Links by the panel. */
export async function linkRobot(page: Page, robot: string): Promise<void> {
  await press(page, `Robot: ${robot}, not linked`);
  await press(page, `Link ${robot}`);
  await says(page, "It stands and waits.");
  await press(page, "Close");
}

/** A link of its own to a robot, past the page. */
export async function openLink(robots: RunningRobots, robot: string): Promise<WebSocket> {
  const socket = new WebSocket(`ws://127.0.0.1:${robots.port}/robots/${robot}`, "pebble-link.1");
  await new Promise((resolve, reject) => {
    socket.once("open", resolve);
    socket.once("error", reject);
  });
  socket.send(JSON.stringify({ kind: "hello", protocol: "pebble-link.1", who: "test" }));
  return socket;
}

/** Asks a stand-in for something, and waits until it is done. */
export async function tell(robots: RunningRobots, robot: string, what: Record<string, unknown>): Promise<void> {
  const socket = await openLink(robots, robot);
  socket.send(JSON.stringify({ ask: 1, ...what }));
  await new Promise<void>((resolve) => {
    socket.on("message", (data: Buffer) => JSON.parse(data.toString("utf8")).kind === "done" && resolve());
  });
  socket.terminate();
}

/** Lets the time of a board on this computer go slower, past the page, as soon as nobody else has its line. */
export async function slowBoard(robots: RunningRobots, board: string, times: number): Promise<void> {
  await expect.poll(() => slowed(robots, board, times)).toBe("done");
}

/** @returns what came of it: "done", or why the line was closed */
function slowed(robots: RunningRobots, board: string, times: number): Promise<string> {
  const socket = new WebSocket(`ws://127.0.0.1:${robots.port}/boards/${board}`, "pebble-board.1");
  let came = "";
  socket.on("error", () => {});
  socket.on("message", (data: Buffer, isBinary) => {
    if (isBinary) return;
    const { told } = JSON.parse(data.toString("utf8"));
    // It listens once it is on.
    if (told === "board") socket.send(JSON.stringify({ do: "slow", ask: 1, times }));
    if (told !== "done") return;
    came = told;
    socket.close();
  });
  return new Promise((resolve) => {
    socket.once("close", (_code, why) => resolve(came || why.toString("utf8")));
  });
}

/** Lets a stand-in's time run faster, so that a test of a minute's drive takes seconds. */
export function hurry(robots: RunningRobots, robot: string, times: number): Promise<void> {
  return tell(robots, robot, { kind: "pace", times });
}
