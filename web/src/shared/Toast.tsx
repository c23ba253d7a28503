// A short message at the foot of the page: says what happened, and goes by itself.
import { useEffect } from "react";

const SHOWN_MS = 6000;

export function Toast({ message, clear }: { message: string | null; clear: () => void }) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new message starts the time anew, a new closure does not
  useEffect(() => {
    if (message === null) return;
    const timer = setTimeout(clear, SHOWN_MS);
    return () => clearTimeout(timer);
  }, [message]);
  return (
    <div className="toasts" role="status" aria-live="polite">
      {message !== null && (
        <div className="toast">
          <span>{message}</span>
          <button type="button" className="plain" onClick={clear}>
            Close
          </button>
        </div>
      )}
    </div>
  );
}
