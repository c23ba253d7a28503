// The card of the tour: what is to be seen on this page, the next stop, and the way out.
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import { useState } from "react";
import { goToStop, leaveTour, STOPS, tourStop } from "./tourStore.js";

export function Tour() {
  const [at, setAt] = useState(tourStop);
  const stop = at === null ? null : STOPS[at];
  if (at === null || !stop || window.location.pathname !== stop.page) return null;
  const leave = () => {
    leaveTour();
    setAt(null);
  };
  const last = at === STOPS.length - 1;
  return (
    <Paper component="aside" className="tour" aria-label="Tour">
      <p className="quiet">
        Stop {at + 1} of {STOPS.length}
      </p>
      <h2>{stop.title}</h2>
      <p>{stop.words}</p>
      <p className="acts">
        {at > 0 && <Button onClick={() => goToStop(at - 1)}>Back</Button>}
        <Button onClick={leave}>{last ? "Done" : "Leave the tour"}</Button>
        {!last && (
          <Button variant="contained" onClick={() => goToStop(at + 1)}>
            Next: {STOPS[at + 1]?.title}
          </Button>
        )}
      </p>
    </Paper>
  );
}
