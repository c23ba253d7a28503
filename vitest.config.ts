import path from "node:path";
import { defineConfig } from "vitest/config";
import { BaseSequencer, type TestSpecification } from "vitest/node";

/** What takes longest for other reasons than its length, longest first: begun first, so that nothing long runs alone in the end. */
const LONG = [
  "browser/board.test.ts",
  "browser/linked.test.ts",
  "browser/drive.test.ts",
  "boards/test/lockstep.test.ts",
  "cli/test/put.test.ts",
  "boards/test/chip.test.ts",
  "device/test/board.test.ts",
  "device/test/python.test.ts",
];

class LongFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId }: TestSpecification) => {
      const found = LONG.findIndex((name) => moduleId.endsWith(name));
      return found < 0 ? LONG.length : found;
    };
    return (await super.sort(files)).sort((a, b) => place(a) - place(b));
  }
}

/** Parts that are built are read as Node reads them, not as sources. */
const BUILT = { deps: { external: [/\/(core|boards|cli)\/dist\//] } };

/**
 * With GIDDY_BUILT, as `npm test` has it: tests of a part read what was built of it a moment ago, as Node reads it. Its
 * sources would be translated once more: a fifth of the processor's time.
 */
const ofBuilt = {
  name: "of what was built",
  enforce: "pre" as const,
  resolveId(id: string, importer?: string) {
    if (!process.env.GIDDY_BUILT || !importer || !/^\.{1,2}\/.*src\//.test(id)) return null;
    const file = path.resolve(path.dirname(importer), id);
    const built = file.replace(/\/(core|boards|cli|device)\/src\//, "/$1/dist/");
    return built === file ? null : { id: built, external: true };
  },
};

/** Tests that put something else in the place of a module or of a global: each reads its modules anew. */
const MOCKING = [
  "core/test/program/once.test.ts",
  ...[
    "compute",
    "hands",
    "linkClient",
    "oneEdit",
    "place",
    "planning",
    "rehearser",
    "saving",
    "smallEdits",
    "still",
    "studyPool",
    "unsaved",
    "weighing",
  ].map((name) => `web/test/unit/${name}.test.ts`),
];

export default defineConfig({
  test: {
    sequence: { sequencer: LongFirst },
    projects: [
      {
        plugins: [ofBuilt],
        test: {
          name: "core",
          include: ["core/test/**/*.test.ts"],
          exclude: MOCKING,
          // What takes long is told by bench; here a loaded machine may take its time.
          testTimeout: 120_000,
          maxWorkers: 2,
          // Nothing in them is mocked and the core keeps nothing between two calls: its modules are read once a worker.
          isolate: false,
        },
      },
      {
        plugins: [ofBuilt],
        test: {
          name: "unit",
          server: BUILT,
          include: [
            "boards/test/**/*.test.ts",
            "cli/test/**/*.test.ts",
            "device/test/**/*.test.ts",
            "web/test/unit/**/*.test.ts",
            "scripts/test/**/*.test.ts",
          ],
          exclude: MOCKING,
          testTimeout: 120_000,
          expect: { poll: { timeout: 15_000 } },
          maxWorkers: 2,
          isolate: false,
        },
      },
      {
        test: { name: "mocking", server: BUILT, include: MOCKING, testTimeout: 120_000, maxWorkers: 2 },
      },
      {
        test: {
          name: "server",
          server: BUILT,
          include: ["web/test/server/**/*.test.ts"],
          testTimeout: 30_000,
          hookTimeout: 60_000,
          expect: { poll: { timeout: 15_000 } },
          fileParallelism: false,
          isolate: false,
        },
      },
      {
        test: {
          name: "browser",
          server: BUILT,
          include: ["web/test/browser/**/*.test.ts"],
          testTimeout: 300_000,
          hookTimeout: 120_000,
          // What is waited for is a condition; a slow machine may take longer over it than the second of the default.
          expect: { poll: { timeout: 60_000 } },
          // Each file has a server, robots and a database of its own, and pages in its worker's browser. Two of them leave
          // some of two processors idle: they wait for robots, too.
          maxWorkers: 3,
          isolate: false,
        },
      },
    ],
  },
});
