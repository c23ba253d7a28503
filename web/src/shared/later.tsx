// Parts of a page that are read when they are shown for the first time: most visits do without.
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { type ComponentType, type ReactNode, useEffect, useState } from "react";
import { Panel } from "./Panel.js";
import { type Missing, readLater, serverAnswers } from "./readLater.js";
import { saveAll } from "./visit.js";

function Unread({ what, missing, again }: { what: string; missing: Missing; again: () => void }) {
  const [inVain, setInVain] = useState(false);
  // Without the server the browser would have no page to show.
  const reload = async () => {
    const there = await serverAnswers();
    setInVain(!there);
    if (!there) return;
    await saveAll();
    window.location.reload();
  };
  return (
    <div className="unread" role="alert">
      <p>
        {missing === "away"
          ? `${what} could not be opened: the server does not answer. What you typed is kept.`
          : `${what} could not be fetched. Reload the page. What you typed is kept.`}
      </p>
      {inVain && <p>The server does not answer yet. Press Reload again when it does.</p>}
      <Button variant="outlined" onClick={missing === "away" ? again : () => void reload()}>
        {missing === "away" ? "Try again" : "Reload"}
      </Button>
    </div>
  );
}

/** Where it is said that a part is not there. @param props - what the part would have got */
type Place<P> = (said: ReactNode, props: P) => ReactNode;

/** In a panel at the side. @param what - the title @param close - closes it */
export const inPanel =
  (what: string, close: () => void): Place<object> =>
  (said) => (
    <Panel title={what} label={what} close={close}>
      {said}
    </Panel>
  );

/** In a window over the page. */
export const inDialog =
  (what: string): Place<{ close: () => void }> =>
  (said, { close }) => (
    <Dialog open onClose={close} slotProps={{ paper: { className: "unreadpaper", "aria-label": what } as object }}>
      {said}
      <Button onClick={close}>Close</Button>
    </Dialog>
  );

/** A part, and what is said while it is not there. */
interface Part<P> {
  /** Once it was read in this page. */
  known: ComponentType<P> | null;
  readonly read: () => Promise<ComponentType<P>>;
  readonly what: string;
  readonly place: Place<P>;
  readonly opening: ReactNode;
}

/**
 * @param read - imports the part
 * @param what - how a sentence about it begins, as "The text"
 * @param place - where it is said that it could not be read; without it where the part would stand
 * @param opening - stands there until it was read
 */
export function later<P extends object>(
  read: () => Promise<ComponentType<P>>,
  what: string,
  place: Place<P> = (said) => said,
  opening: ReactNode = null,
): ComponentType<P> {
  const part: Part<P> = { known: null, read, what, place, opening };
  return (props) => <Later part={part} given={props} />;
}

function Later<P extends object>({ part, given }: { part: Part<P>; given: P }) {
  const [Known, setKnown] = useState(() => part.known);
  const [missing, setMissing] = useState<Missing | null>(null);
  const [asked, setAsked] = useState(1);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is asked for again when somebody wants it
  useEffect(() => {
    let here = true;
    const take = (found: ComponentType<P> | Missing) => {
      if (typeof found !== "string") part.known = found;
      if (!here) return;
      if (typeof found === "string") setMissing(found);
      else setKnown(() => found);
    };
    if (part.known) take(part.known);
    else void readLater(part.read).then(take);
    return () => {
      here = false;
    };
  }, [part, asked]);
  if (Known) return <Known {...given} />;
  if (missing === null) return part.opening;
  const again = () => {
    setMissing(null);
    setAsked(asked + 1);
  };
  return part.place(<Unread what={part.what} missing={missing} again={again} />, given);
}
