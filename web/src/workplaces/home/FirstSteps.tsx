// What to do first: four useful acts, and a tour. Put away by a press, and found again in the list of words (Ctrl+K).
import Button from "@mui/material/Button";
import { useState } from "react";
import { linkTo } from "../../shared/place.js";
import { startTour } from "../../shared/tour/tourStore.js";

const HIDDEN_KEY = "giddy-pebble first steps";

const ACTS = [
  {
    href: "/mission",
    title: "Run a mission",
    about: "Rehearse one that is ready. Change a number. Watch the path move.",
  },
  { href: "/robot", title: "Describe your robot", about: "Put parts on a drawing to scale. See what the gears do." },
  { href: "/calibrate", title: "Measure your robot", about: "Find its true wheel size and track width." },
  { href: "/field", title: "Draw your field", about: "Lines, walls and zones, or a picture of your mat." },
] as const;

export function FirstSteps() {
  const [hidden, setHidden] = useState(() => localStorage.getItem(HIDDEN_KEY) !== null);
  const hide = (now: boolean) => {
    if (now) localStorage.setItem(HIDDEN_KEY, "hidden");
    else localStorage.removeItem(HIDDEN_KEY);
    setHidden(now);
  };
  if (hidden)
    return (
      <p className="firsthidden">
        <Button onClick={() => hide(false)}>Show first steps</Button>
      </p>
    );
  return (
    <section className="firststeps" aria-labelledby="first">
      <header>
        <h2 id="first">First steps</h2>
        <Button variant="contained" onClick={startTour}>
          Take the tour: five stops
        </Button>
        <Button onClick={() => hide(true)}>Hide</Button>
      </header>
      <ul>
        {ACTS.map(({ href, title, about }) => (
          <li key={href}>
            <a href={linkTo(href)}>
              <strong>{title}</strong>
              <span>{about}</span>
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}
