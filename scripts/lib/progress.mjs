// How far a long wait is: one line that changes in a terminal, a line now and then elsewhere.

/** Between lines where they stay, ms. */
const STAYING_MS = 15_000;
const CHANGING_MS = 500;

/**
 * Shows a wait until it is over.
 * @param {string} title
 * @param {() => string} how - how far it is, in words; empty when nobody knows
 * @returns {() => void} ends it
 */
export function showProgress(title, how) {
  const begun = performance.now();
  const terminal = process.stdout.isTTY === true;
  const line = () => {
    const seconds = Math.round((performance.now() - begun) / 1000);
    const far = how();
    return `  ${title}${far === "" ? "" : `, ${far}`}, ${seconds} s`;
  };
  process.stdout.write(`  ${title}\n`);
  const timer = setInterval(
    () => process.stdout.write(terminal ? `\u001b[1A\u001b[2K${line()}\n` : `${line()}\n`),
    terminal ? CHANGING_MS : STAYING_MS,
  );
  return () => clearInterval(timer);
}
