// Keys of a workplace: one way to bind them, for all of them. What is pressed is matched by tinykeys; where a key is
// the page's and where it belongs to what has the focus is decided here, and tested from every place that can have it.
import { useEffect, useRef } from "react";
import { matchKeyBindingPress, parseKeybinding } from "tinykeys";

/**
 * Where the focus may be for a key to be the page's.
 * - anywhere: also in a text field
 * - outside text: on anything that does not take text
 * - page: on nothing that would do something with it: no field, no button, no link
 */
export type Where = "anywhere" | "outside text" | "page";

export interface Binding {
  /** As tinykeys writes them, several with spaces between: "$mod+z", "Shift+ArrowUp". */
  readonly keys: string;
  readonly where: Where;
  /** @returns false when it is not taken after all, so that the browser has it */
  readonly act: (event: KeyboardEvent) => unknown;
}

/** Things that open over the page and have keys of their own. */
const OVER = '[role="menu"], [role="listbox"], [role="dialog"], [role="presentation"].MuiModal-root';
/** What a press or a key is for by itself. */
export const CONTROLS =
  'button, a[href], input, select, textarea, summary, [role="button"], [role="spinbutton"], [role="slider"]';

/** Whether keys pressed there are text, not shortcuts. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target.tagName === "TEXTAREA" || target.tagName === "SELECT") return true;
  return (
    target instanceof HTMLInputElement && !/^(checkbox|radio|button|submit|reset|range|color|file)$/.test(target.type)
  );
}

/** A control that is part of something which has the keys itself, such as the pebble of a step in its list. */
const YIELDS = "[data-keys=yield]";

function isFree(target: EventTarget | null, where: Where): boolean {
  if (!(target instanceof Element)) return true;
  if (target.closest(OVER)) return false;
  if (where === "anywhere") return true;
  if (isTyping(target)) return false;
  return where === "outside text" || target.closest(YIELDS) !== null || target.closest(CONTROLS) === null;
}

/** Keys that are written with Shift on some keyboards and without on others: "?" is matched by what it writes. */
function matches(event: KeyboardEvent, keys: string): boolean {
  return keys.split(" ").some((one) => {
    if (one.length === 1 && !/[a-z0-9]/i.test(one))
      return event.key === one && !event.ctrlKey && !event.metaKey && !event.altKey;
    return parseKeybinding(one).some((press) => matchKeyBindingPress(event, press));
  });
}

/** Does what the pressed key is bound to, unless the key belongs to what has the focus. @returns whether it was taken */
export function obey(event: KeyboardEvent, bindings: readonly Binding[]): boolean {
  if (event.defaultPrevented || event.isComposing) return false;
  for (const { keys, where, act } of bindings) {
    if (!matches(event, keys) || !isFree(event.target, where)) continue;
    if (act(event) === false) continue;
    event.preventDefault();
    event.stopPropagation();
    return true;
  }
  return false;
}

/** Binds keys while the component is there. The bindings of the latest render are the ones in force. */
export function useKeys(bindings: readonly Binding[]): void {
  const latest = useRef(bindings);
  latest.current = bindings;
  useEffect(() => {
    // Before anything below sees it: fields stop keys on their way up, and the browser would act on them.
    const keys = (event: KeyboardEvent) => void obey(event, latest.current);
    window.addEventListener("keydown", keys, { capture: true });
    return () => window.removeEventListener("keydown", keys, { capture: true });
  }, []);
}
