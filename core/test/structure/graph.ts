// The core's files and folders with what each imports, types included; and the rings among them.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

export const sourceFolder = path.resolve(import.meta.dirname, "../../src");

/** Files below a folder, by their path in it: "cairn/lexer.ts" with its text. */
export function filesIn(folder: string): Map<string, string> {
  const names = readdirSync(folder, { recursive: true, encoding: "utf8" }).filter((name) => name.endsWith(".ts"));
  return new Map(names.map((name) => [name.split(path.sep).join("/"), readFileSync(path.join(folder, name), "utf8")]));
}

export type Graph = ReadonlyMap<string, ReadonlySet<string>>;

/** What each file imports or passes on, of the files themselves. */
export function fileGraph(files: ReadonlyMap<string, string>): Graph {
  const found = new Map<string, Set<string>>();
  for (const [name, text] of files) {
    const to = [...text.matchAll(/(?:from|import)\s*\(?\s*"(\.{1,2}\/[^"]+)"/g)].map(([, spec = ""]) =>
      path.posix.join(path.posix.dirname(name), spec).replace(/\.js$/, ".ts"),
    );
    found.set(name, new Set(to.filter((other) => files.has(other))));
  }
  return found;
}

/** The same for their folders; files at the top have none. */
export function folderGraph(files: Graph): Graph {
  const found = new Map<string, Set<string>>();
  for (const [name, others] of files) {
    const from = path.posix.dirname(name);
    for (const other of others) {
      const to = path.posix.dirname(other);
      if (from === to || from === "." || to === ".") continue;
      found.set(from, (found.get(from) ?? new Set()).add(to));
    }
  }
  return found;
}

/** One ring of imports, as the way round it; null when there is none. */
export function ringOf(graph: Graph): readonly string[] | null {
  const done = new Set<string>();
  const way: string[] = [];
  const walk = (name: string): readonly string[] | null => {
    const at = way.indexOf(name);
    if (at >= 0) return [...way.slice(at), name];
    if (done.has(name)) return null;
    way.push(name);
    for (const other of graph.get(name) ?? []) {
      const ring = walk(other);
      if (ring) return ring;
    }
    way.pop();
    done.add(name);
    return null;
  };
  for (const name of graph.keys()) {
    const ring = walk(name);
    if (ring) return ring;
  }
  return null;
}
