// Files of the program that a page reads when they are needed first.

/** Why a part is not there: the server does not answer, or the browser could not have a file that the server should have. */
export type Missing = "away" | "unfetched";

export async function serverAnswers(): Promise<boolean> {
  try {
    return (await fetch("/pebble.svg", { method: "HEAD", cache: "no-store" })).ok;
  } catch {
    return false;
  }
}

/**
 * Reads a part, once the server is there. A browser asks for a file of the program once in the life of a page: if it could
 * not have it then, it says the same again without asking.
 */
export async function readLater<T>(read: () => Promise<T>): Promise<T | Missing> {
  if (!(await serverAnswers())) return "away";
  return read().catch(() => "unfetched" as const);
}
