// Part of the tests that runs in the page: finds what a person would press there, by its words too.
import { computeAccessibleName, getRole } from "dom-accessibility-api";

export interface Wanted {
  /** CSS. */
  readonly selector?: string;
  /** The first of those that the selector names whose text has these words in it. */
  readonly words?: string;
  /** A role and a name, as they are told to who does not see the page. */
  readonly role?: string;
  readonly name?: string;
}

export interface Spot {
  readonly x: number;
  readonly y: number;
}

export interface InPage {
  byRole(role: string, name: string): Element | null;
  /** Where it can be pressed; null when it cannot yet. The next press is one of it, or nothing. */
  spotOf(wanted: Wanted): Promise<Spot | null>;
  /** Whether that press fell beside it, because the page had moved. */
  missed(): boolean;
}

/** Elements that have a role without saying so. */
const HAVE_ROLES = "a, button, input, option, select, summary, textarea";

function isTold(element: Element): boolean {
  return (
    element.checkVisibility({ visibilityProperty: true }) && element.closest('[aria-hidden="true"], [inert]') === null
  );
}

function* allByRole(role: string, name: string): Generator<Element> {
  for (const element of document.querySelectorAll(`[role="${role}"], ${HAVE_ROLES}`))
    if (getRole(element) === role && isTold(element) && computeAccessibleName(element) === name) yield element;
}

const nextFrame = () => new Promise((resolve) => requestAnimationFrame(resolve));

/** Its first box, as far as the window shows it. */
function seenBox(element: Element): DOMRect | null {
  for (const { left, top, right, bottom } of element.getClientRects()) {
    const [x, y] = [Math.max(0, left), Math.max(0, top)];
    const box = new DOMRect(x, y, Math.min(innerWidth, right) - x, Math.min(innerHeight, bottom) - y);
    if (box.width >= 1 && box.height >= 1) return box;
  }
  return null;
}

/** Whether who presses this presses the element. */
function isOn(element: Element, hit: EventTarget | null): boolean {
  if (!(hit instanceof Element)) return false;
  if (element.contains(hit) || hit.closest("label")?.control === element) return true;
  return getComputedStyle(element).pointerEvents === "none" && hit.contains(element);
}

/** What is to be pressed next: a press of anything else does nothing. */
const press = { wanted: null as Element | null, missed: false };

const PRESSING = ["pointerdown", "mousedown", "pointerup", "mouseup", "click", "dblclick"];
for (const type of PRESSING)
  window.addEventListener(
    type,
    (event) => {
      if (press.wanted && type === "pointerdown") {
        press.missed = !isOn(press.wanted, event.target);
        press.wanted = null;
      }
      if (!press.missed) return;
      event.preventDefault();
      event.stopImmediatePropagation();
    },
    true,
  );

/** Its middle, once it can be pressed there: it is enabled, stands still, and nothing lies over it. */
async function spotOn(element: Element): Promise<Spot | null> {
  if (element.matches(":disabled")) return null;
  if (!seenBox(element)) element.scrollIntoView({ block: "center", inline: "center", behavior: "instant" });
  const before = seenBox(element);
  if (!before) return null;
  await nextFrame();
  const box = seenBox(element);
  if (!box || box.x !== before.x || box.y !== before.y || box.width !== before.width || box.height !== before.height)
    return null;
  const spot = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  if (isOn(element, document.elementFromPoint(spot.x, spot.y))) {
    press.wanted = element;
    press.missed = false;
    return spot;
  }
  // It may be out of sight in a list of its own.
  element.scrollIntoView({ block: "center", inline: "center", behavior: "instant" });
  return null;
}

const inPage: InPage = {
  byRole: (role, name) => allByRole(role, name).next().value ?? null,
  async spotOf({ selector, words = "", role = "button", name = "" }) {
    const found = selector === undefined ? allByRole(role, name) : document.querySelectorAll(selector);
    for (const element of found) {
      if (selector !== undefined && !element.textContent?.includes(words)) continue;
      const spot = await spotOn(element);
      if (spot || selector !== undefined) return spot;
    }
    return null;
  },
  missed() {
    // One that came to nothing was none, and is done again, too.
    const missed = press.missed || press.wanted !== null;
    press.missed = false;
    press.wanted = null;
    return missed;
  },
};

(window as unknown as { inPage: InPage }).inPage = inPage;
