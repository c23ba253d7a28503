import { describe, expect, test } from "vitest";
import { processorTime, watchLent } from "../lib/lent.mjs";

describe("time of the processors that a host gave to others", () => {
  test("is the eighth number of Linux; guests are counted as users already", () => {
    const stat = "cpu  100 5 20 300 40 1 2 32 7 3\ncpu0 50 2 10 150 20 0 1 16 0 0\nintr 4 0\n";
    expect(processorTime(stat)).toEqual({ all: 500, taken: 32 });
  });

  test.each(["", "cpu  100 5 20 300\n", "cpu0 100 5 20 300 40 1 2 32 0 0\n"])("is not known from %j", (stat) => {
    expect(processorTime(stat)).toBeNull();
  });

  test("is a share of what went by since it is watched", () => {
    const stats = ["cpu  100 5 20 300 40 1 2 32 7 3\n", "cpu  130 5 20 350 40 1 2 52 7 3\n"];
    const taken = watchLent(() => stats.shift() ?? "");
    expect(taken()).toBe(0.2);
    expect(taken()).toBeNull();
  });

  test("is not known where there is no such file", () => {
    const taken = watchLent(() => {
      throw new Error("ENOENT");
    });
    expect(taken()).toBeNull();
  });
});
