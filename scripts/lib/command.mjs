// Running other programs: captured, or passed through, always with the exit status looked at.
import { spawn, spawnSync } from "node:child_process";
import { accessSync, constants } from "node:fs";
import path from "node:path";

/**
 * Runs a program and returns what it printed.
 * @param {string} program
 * @param {string[]} args
 * @param {import("node:child_process").SpawnSyncOptions} [options]
 */
export function capture(program, args, options = {}) {
  const result = spawnSync(program, args, { encoding: "utf8", maxBuffer: 64 * 1024 * 1024, ...options });
  return {
    ok: result.status === 0,
    status: result.status,
    out: String(result.stdout ?? ""),
    err: String(result.stderr ?? "") + (result.error ? String(result.error.message) : ""),
  };
}

/**
 * Runs a program with its output passed through; resolves to its exit status (128 + n after signal n).
 * @param {string} program
 * @param {string[]} args
 * @param {import("node:child_process").SpawnOptions} [options]
 * @returns {Promise<number>}
 */
export function passThrough(program, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(program, args, { stdio: "inherit", ...options });
    child.on("error", () => resolve(127));
    child.on("exit", (code, signal) => resolve(code ?? (signal ? 128 : 1)));
  });
}

/**
 * Runs a program without waiting for it in the way of everything else; what it printed comes at its end.
 * @param {string} program
 * @param {string[]} args
 * @param {import("node:child_process").SpawnOptions} [options]
 * @returns {Promise<{ ok: boolean, status: number | null, out: string, err: string }>}
 */
export function captureLater(program, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(program, args, { stdio: ["ignore", "pipe", "pipe"], ...options });
    let out = "";
    let err = "";
    child.stdout?.setEncoding("utf8").on("data", (part) => {
      out += part;
    });
    child.stderr?.setEncoding("utf8").on("data", (part) => {
      err += part;
    });
    child.on("error", (error) => resolve({ ok: false, status: null, out, err: err + error.message }));
    child.on("exit", (status) => resolve({ ok: status === 0, status, out, err }));
  });
}

/** @param {string} name @returns {string | null} full path of a program found on PATH */
export function onPath(name) {
  for (const folder of (process.env.PATH ?? "").split(path.delimiter)) {
    if (folder === "") continue;
    const candidate = path.join(folder, name);
    try {
      accessSync(candidate, constants.X_OK);
      return candidate;
    } catch {
      // not in this folder
    }
  }
  return null;
}

/** @returns {boolean} */
export function isRoot() {
  return process.getuid?.() === 0;
}

/** @param {number} pid @returns {boolean} */
export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return /** @type {NodeJS.ErrnoException} */ (error).code === "EPERM";
  }
}
