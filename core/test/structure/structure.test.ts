// How the core hangs together: imports go one way, and what is exported is used.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { fileGraph, filesIn, folderGraph, ringOf, sourceFolder } from "./graph.js";

const files = filesIn(sourceFolder);
const graph = fileGraph(files);

describe("imports", () => {
  test("no file imports itself by way of others, types included", () => {
    expect(graph.size).toBeGreaterThan(200);
    expect(ringOf(graph)).toBeNull();
  });

  test("nor does a folder", () => {
    expect(folderGraph(graph).size).toBeGreaterThan(15);
    expect(ringOf(folderGraph(graph))).toBeNull();
  });

  test("a ring made on purpose is found, of files and of folders", () => {
    const spoilt = new Map(files);
    spoilt.set("math/trig.ts", `import type { Robot } from "../robot/schema.js";\n${files.get("math/trig.ts")}`);
    expect(ringOf(fileGraph(spoilt))).toContain("math/trig.ts");
    const apart = new Map([
      ["a/one.ts", 'import { two } from "../b/two.js";'],
      ["b/two.ts", ""],
      ["b/three.ts", 'export type { Four } from "../a/four.js";'],
      ["a/four.ts", ""],
    ]);
    expect(ringOf(fileGraph(apart))).toBeNull();
    expect(ringOf(folderGraph(fileGraph(apart)))).toEqual(["a", "b", "a"]);
  });

  test("the brain knows no world and no tape, and the body no program", () => {
    const folders = folderGraph(graph);
    const reach = (from: string) => {
      const found = new Set<string>();
      const open = [from];
      for (let name = open.pop(); name !== undefined; name = open.pop())
        for (const other of folders.get(name) ?? [])
          if (!found.has(other)) {
            found.add(other);
            open.push(other);
          }
      return found;
    };
    for (const folder of ["simulate", "rehearse", "run", "trials", "calibrate"])
      expect([...reach("brain")]).not.toContain(folder);
    // The body speaks the brain's language of senses and orders, and nothing else of it.
    const ofBrain = [...graph].filter(([name]) => name.startsWith("simulate/")).flatMap(([, others]) => [...others]);
    expect(ofBrain.filter((name) => /^(brain|program|cairn)\//.test(name) && name !== "brain/raw.ts")).toEqual([]);
    expect([...(graph.get("brain/raw.ts") ?? [])].filter((name) => /^(program|cairn)\//.test(name))).toEqual([]);
  });
});

describe("exports", () => {
  const root = path.resolve(sourceFolder, "../..");
  const folders = [
    "web/src",
    "web/test",
    "device/src",
    "device/test",
    "boards/src",
    "boards/test",
    "cli/src",
    "cli/test",
    "bench",
    "scripts",
  ];
  const others = [...folders, "core/test"].flatMap((folder) =>
    readdirSync(path.join(root, folder), { recursive: true, encoding: "utf8" })
      .filter((name) => /\.(ts|tsx|mjs|mts|astro)$/.test(name))
      .map((name) => readFileSync(path.join(root, folder, name), "utf8")),
  );
  const wordsOf = (text: string) => new Set(text.match(/[A-Za-z_$][\w$]*/g) ?? []);
  const outside = others.map(wordsOf);
  const inside = new Map([...files].map(([name, text]) => [name, wordsOf(text)]));

  test("every name the core gives out is used outside of it", () => {
    const index = files.get("index.ts") ?? "";
    expect(index).not.toContain("export *");
    const given = [...index.matchAll(/export (?:type )?\{([^}]*)\}/g)].flatMap(([, names = ""]) =>
      names.split(",").map((name) => name.trim().replace(/^type /, "")),
    );
    const unused = given.filter((name) => name !== "" && !outside.some((words) => words.has(name)));
    expect(unused).toEqual([]);
  });

  test("every name a file exports is used in another", () => {
    const unused = [...files].flatMap(([name, text]) =>
      [...text.matchAll(/^export (?:abstract )?(?:function|const|class|interface|type) (\w+)/gm)]
        .map(([, exported = ""]) => exported)
        .filter(
          (exported) =>
            ![...inside].some(([other, words]) => other !== name && words.has(exported)) &&
            !outside.some((words) => words.has(exported)),
        )
        .map((exported) => `${name}: ${exported}`),
    );
    expect(unused).toEqual([]);
  });
});
