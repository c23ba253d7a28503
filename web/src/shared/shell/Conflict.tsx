// Two windows on one document.
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import type { SaveState } from "../saving.js";

/** One way on when two windows changed the same document. */
export interface WayOn {
  readonly label: string;
  readonly act: () => void;
}

/** Two windows on one document: says so and offers the ways on. The first is the one that loses least. */
export function Conflict(props: { save: SaveState; word: string; ways: readonly WayOn[] }) {
  if (props.save.is !== "conflict") return null;
  return (
    <Alert severity="warning" icon={false} className="banner" role="alert">
      <strong>This {props.word} was changed in another window.</strong> Yours is on the screen, the other is on the
      server.
      <span className="acts">
        {props.ways.map(({ label, act }, i) => (
          <Button key={label} variant={i === 0 ? "contained" : "outlined"} onClick={act}>
            {label}
          </Button>
        ))}
      </span>
    </Alert>
  );
}

/** The two ways on that every document has. */
export function mineOrTheirs(settle: (which: "mine" | "theirs") => void): readonly WayOn[] {
  return [
    { label: "Go on with mine", act: () => settle("mine") },
    { label: "Take the other", act: () => settle("theirs") },
  ];
}
