// The worker that reads what it is for: nothing that was asked meanwhile is lost, and what cannot be read is told.
import { beforeEach, expect, test, vi } from "vitest";

interface Scope {
  name: string;
  onmessage: ((event: MessageEvent<unknown>) => void) | null;
  reportError: (error: unknown) => void;
}

const heard: unknown[] = [];
const reported: unknown[] = [];
let scope: Scope;
/** Lets the code of the kind that is read come. */
let come: () => void;

vi.mock("../../src/workers/probe.js", async () => {
  await new Promise<void>((resolve) => {
    come = resolve;
  });
  scope.onmessage = ({ data }) => void heard.push(data);
  return {};
});
vi.mock("../../src/workers/mat.js", () => {
  throw new Error("the server is away");
});

const ask = (data: unknown) => scope.onmessage?.({ data } as MessageEvent<unknown>);

beforeEach(() => {
  vi.resetModules();
  heard.length = 0;
  reported.length = 0;
  scope = { name: "", onmessage: null, reportError: (error) => void reported.push(error) };
  vi.stubGlobal("self", scope);
});

test("what is asked while its code is on the way is heard afterwards, in order and once", async () => {
  scope.name = "probe";
  const begun = import("../../src/workers/compute.worker.js");
  await vi.waitFor(() => expect(scope.onmessage).not.toBeNull());
  ask("first");
  ask("second");
  await vi.waitFor(() => expect(come).toBeDefined());
  expect(heard).toEqual([]);
  come();
  await begun;
  ask("third");
  expect(heard).toEqual(["first", "second", "third"]);
  expect(reported).toEqual([]);
});

test("code that does not come is told as an error of the worker", async () => {
  scope.name = "mat";
  await import("../../src/workers/compute.worker.js");
  expect(reported).toHaveLength(1);
  expect(String((reported[0] as Error).cause ?? reported[0])).toContain("the server is away");
});
