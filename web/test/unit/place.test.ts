// Back and Forward within a visit, whoever hears of them first.
import { expect, test, vi } from "vitest";
import { onReturn } from "../../src/shared/place.js";

function browserAt(state: unknown) {
  const history = { state };
  vi.stubGlobal("window", Object.assign(new EventTarget(), { history }));
  return history;
}

test.each([
  ["an entry of this visit", { visit: "first" }, 1],
  ["an entry that the browser made, before anybody marked it", null, 1],
  ["an entry of another visit", { visit: "second" }, 0],
])("%s", (_, state, calls) => {
  const history = browserAt({ visit: "first" });
  const call = vi.fn();
  const end = onReturn(call);
  history.state = state as typeof history.state;
  window.dispatchEvent(new Event("popstate"));
  expect(call).toHaveBeenCalledTimes(calls);
  end();
  window.dispatchEvent(new Event("popstate"));
  expect(call).toHaveBeenCalledTimes(calls);
});
