// A visit: from the opening of a workplace until the person goes to another one. The page stays, and with it the link to
// the robot and workers that are warm. What belongs to the visit ends with it, as if the page had been loaded anew.

type Save = () => Promise<unknown>;
type End = () => void;

/** A server that does not answer must not keep anybody from going on, ms. */
const LONGEST_SAVE_MS = 3000;

const saves = new Set<Save>();
const ends = new Set<End>();
/** Which visit it is; a new object for each. */
let visit: object = {};

/** What has to be saved before a person is somewhere else. It is asked at each leaving. */
export function beforeLeaving(save: Save): void {
  saves.add(save);
}

/** What is on its way to the server, such as a run that ended a moment ago. */
const keeping = new Set<Promise<unknown>>();

/** Whoever goes somewhere else waits until this is kept: it would be lost. @returns the same */
export function beingKept<T>(work: Promise<T>): Promise<T> {
  const kept = work.finally(() => keeping.delete(kept));
  keeping.add(kept);
  return kept;
}

/** What ends with a visit, and how a workplace is put back to its beginning. It is called at each leaving. */
export function whenLeft(end: End): void {
  ends.add(end);
}

/** Saves what waits. It never fails: what could not be saved is kept on this computer. */
export async function saveAll(longestMs = LONGEST_SAVE_MS): Promise<void> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise((resolve) => {
    timer = setTimeout(resolve, longestMs);
  });
  await Promise.race([everythingSaved(), late]);
  clearTimeout(timer);
}

async function everythingSaved(): Promise<void> {
  const save = () => [...saves].map((one) => one());
  const kept = [...keeping];
  await Promise.allSettled([...save(), ...kept]);
  // What was being kept may have changed a document, as a photograph does its page.
  if (kept.length > 0) await Promise.allSettled(save());
}

/** The person is somewhere else now. */
export function endVisit(): void {
  visit = {};
  // What was asked for in it is heard by nobody any more.
  keeping.clear();
  for (const end of ends) end();
}

/** @returns the same answer, which nobody hears once the visit in which it was asked for is over */
export function inThisVisit<T>(answer: Promise<T>): Promise<T> {
  const asked = visit;
  return new Promise((resolve, reject) => {
    answer.then(
      (value) => asked === visit && resolve(value),
      (error: unknown) => asked === visit && reject(error),
    );
  });
}

/** @returns what does things one after another. What still waits when a visit ends is not begun any more. */
export function inTurn(): <T>(work: () => Promise<T>) => Promise<T> {
  let latest: Promise<unknown> = Promise.resolve();
  whenLeft(() => {
    latest = Promise.resolve();
  });
  return (work) => {
    const asked = visit;
    const mine = latest.then(() => (asked === visit ? work() : new Promise<never>(() => {})));
    latest = mine.catch(() => {});
    return mine;
  };
}
