// What happens to an error that nobody expected: it is written down, requests in hand get a moment to be answered,
// and the process ends. Whoever started it starts it again.
import { logger } from "../server/logger.js";

/** For answers in hand, ms. */
const LAST_MOMENT_MS = 500;

/** @param closeDoor - takes no new requests from then on */
export function endOnUnknownErrors(closeDoor: () => void): void {
  let ending = false;
  const end = (error: unknown) => {
    const reason = error instanceof Error ? (error.stack ?? error.message) : String(error);
    logger.fatal({ reason }, "an error that nobody expected; the server ends and is started again");
    if (ending) return;
    ending = true;
    closeDoor();
    setTimeout(() => process.exit(70), LAST_MOMENT_MS).unref();
  };
  process.on("uncaughtException", end);
  process.on("unhandledRejection", end);
}
