// What comes many times a second, shown a few times a second: the page keeps its time for the person.

/**
 * @param everyMs - between the end of one showing and the beginning of the next, ms
 * @param fromMs - the first is not before this, by performance.now()
 * @returns shows now if it is time to, and otherwise does nothing
 */
export function paced(everyMs: number, fromMs = 0): (show: () => void) => void {
  let next = fromMs;
  return (show) => {
    if (performance.now() < next) return;
    show();
    // Showing takes its time, too.
    next = performance.now() + everyMs;
  };
}
