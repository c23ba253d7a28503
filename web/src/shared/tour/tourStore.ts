// A tour of five stops over real data: where it is, kept in the browser, so that it goes on from page to page.

import { go } from "../going.js";
import { linkTo } from "../place.js";

export interface Stop {
  readonly page: string;
  readonly title: string;
  readonly words: string;
}

export const STOPS: readonly Stop[] = [
  {
    page: "/robot",
    title: "Your robot",
    words: "This is Drizzle, drawn to scale. Choose a wheel and change its size. The figures on the right follow.",
  },
  {
    page: "/calibrate",
    title: "What is measured",
    words:
      "A drawing is never exact. Here you drive, measure with a tape, and the true wheel size comes out with its error.",
  },
  {
    page: "/field",
    title: "Your field",
    words: "Lines, walls and loads lie on the field. Draw your own, or lay a picture of your mat.",
  },
  {
    page: "/mission",
    title: "Your mission",
    words: "Steps on the left, the path on the right. Change a number and the path moves. Press Rehearse to run it.",
  },
  {
    page: "/trials",
    title: "What happened",
    words: "Every run is kept with what made it. Lay four runs over one another and see what differs.",
  },
];

const KEY = "giddy-pebble tour";

/** @returns the stop it is at, from 0; null when nobody is on the tour */
export function tourStop(): number | null {
  const at = Number(localStorage.getItem(KEY) ?? Number.NaN);
  return Number.isInteger(at) && at >= 0 && at < STOPS.length ? at : null;
}

export function goToStop(at: number): void {
  const stop = STOPS[at];
  if (!stop) return leaveTour();
  localStorage.setItem(KEY, String(at));
  go(linkTo(stop.page));
}

export const startTour = () => goToStop(0);

export function leaveTour(): void {
  localStorage.removeItem(KEY);
}
