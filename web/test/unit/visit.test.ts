// What belongs to a visit ends with it: answers nobody waits for, saving before, putting back after.
import { expect, test, vi } from "vitest";
import { beforeLeaving, beingKept, endVisit, inThisVisit, inTurn, saveAll, whenLeft } from "../../src/shared/visit.js";

function settled(promise: Promise<unknown>): Promise<string> {
  return Promise.race([
    promise.then(
      (value) => `answered ${value}`,
      (error: unknown) => `failed ${error instanceof Error ? error.message : error}`,
    ),
    new Promise<string>((resolve) => setTimeout(() => resolve("nobody hears it"))),
  ]);
}

interface Later {
  readonly promise: Promise<number>;
  readonly resolve: (value: number) => void;
  readonly reject: (error: Error) => void;
}

function later(): Later {
  const made: Partial<Later> = {};
  const promise = new Promise<number>((resolve, reject) => Object.assign(made, { resolve, reject }));
  return Object.assign(made, { promise }) as Later;
}

test("an answer, or a failure, is heard in the visit in which it was asked for", async () => {
  expect(await settled(inThisVisit(Promise.resolve(3)))).toBe("answered 3");
  expect(await settled(inThisVisit(Promise.reject(new Error("away"))))).toBe("failed away");
});

test("in the next visit nobody hears it", async () => {
  const [answering, failing] = [later(), later()];
  const [asked, failed] = [inThisVisit(answering.promise), inThisVisit(failing.promise)];
  endVisit();
  answering.resolve(3);
  failing.reject(new Error("away"));
  expect(await settled(asked)).toBe("nobody hears it");
  expect(await settled(failed)).toBe("nobody hears it");
  expect(await settled(inThisVisit(Promise.resolve(4)))).toBe("answered 4");
});

test("leaving waits for what is being kept, then saves what that changed; the next visit does not wait for it", async () => {
  endVisit();
  const order: string[] = [];
  beforeLeaving(async () => void order.push("saved"));
  const run = later();
  const kept = beingKept(run.promise.then(() => order.push("kept")));
  const left = saveAll().then(() => order.push("left"));
  expect(await settled(left)).toBe("nobody hears it");
  run.resolve(1);
  await kept;
  await left;
  expect(order.slice(0, 2)).toEqual(["saved", "kept"]);
  expect(order.slice(-2)).toEqual(["saved", "left"]);
  // What is kept by now is waited for no more, nor is what never comes once the visit is over.
  order.length = 0;
  await saveAll();
  expect(order).toEqual(["saved"]);
  beingKept(new Promise(() => {}));
  endVisit();
  order.length = 0;
  await saveAll(10_000);
  expect(order).toEqual(["saved"]);
});

test("what could not be kept keeps nobody", async () => {
  const failing = beingKept(Promise.reject(new Error("away")));
  await saveAll();
  await expect(failing).rejects.toThrow("away");
});

test("everything is saved before leaving; what fails or never answers keeps nobody", async () => {
  const saved = vi.fn(() => Promise.resolve());
  beforeLeaving(() => Promise.reject(new Error("the server is away")));
  beforeLeaving(saved);
  await saveAll();
  expect(saved).toHaveBeenCalledOnce();
  beforeLeaving(() => new Promise(() => {}));
  await saveAll(1);
  expect(saved).toHaveBeenCalledTimes(2);
});

test("what ends with a visit is called at each leaving", () => {
  const end = vi.fn();
  whenLeft(end);
  expect(end).not.toHaveBeenCalled();
  endVisit();
  endVisit();
  expect(end).toHaveBeenCalledTimes(2);
});

test("things in turn are done one after another, also after one that failed; the next visit does not wait for them", async () => {
  const [first, last] = [later(), later()];
  const turn = inTurn();
  const done: string[] = [];
  const work = (name: string, until: Promise<unknown>) => () => {
    done.push(name);
    return until;
  };
  const failed = turn(work("first", first.promise));
  const second = turn(work("second", last.promise));
  void turn(work("third", Promise.resolve()));
  await Promise.resolve();
  expect(done).toEqual(["first"]);
  first.reject(new Error("refused"));
  expect(await settled(failed)).toBe("failed refused");
  expect(done).toEqual(["first", "second"]);
  endVisit();
  expect(await settled(turn(work("of the next visit", Promise.resolve(4))))).toBe("answered 4");
  expect(done).toEqual(["first", "second", "of the next visit"]);
  last.resolve(2);
  expect(await settled(second)).toBe("answered 2");
  expect(done).toEqual(["first", "second", "of the next visit"]);
});
