// Outcomes of the document service as HTTP answers.
import type { Outcome } from "./documentService.js";
import { problem } from "./http.js";
import { openView } from "./views.js";

export function answerOutcome<T>(outcome: Outcome<T>, good: (value: T) => Response): Response {
  if (outcome.ok) return good(outcome.value);
  switch (outcome.why) {
    case "missing":
      return problem(404, "not-found", "Not found", "There is no such document. It may have been archived.");
    case "invalid":
      return problem(422, "invalid-document", "Not saved", `Nothing was saved: ${outcome.problems.join("; ")}.`, {
        problems: outcome.problems,
      });
    case "name-taken":
      return problem(
        409,
        "name-taken",
        "Name taken",
        `There is already one called "${outcome.name}". Choose another name.`,
      );
    case "in-use":
      return problem(409, "in-use", "Still in use", outcome.words);
    case "stale":
      return problem(
        409,
        "stale",
        "Changed elsewhere",
        "This was saved in another window since you opened it. Both versions are kept: choose how to go on.",
        {
          current: openView(outcome.current),
        },
      );
  }
}
