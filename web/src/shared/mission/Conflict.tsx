// Two windows on one mission: says so, keeps both versions, and offers the ways on.
import Button from "@mui/material/Button";
import { keepBoth, keepMine, takeTheirs } from "./settling.js";
import { useMission } from "./state.js";

export function Conflict() {
  const save = useMission((state) => state.save);
  if (save.is !== "conflict") return null;
  return (
    <div className="banner" role="alert">
      <strong>This mission was changed in another window.</strong> Both versions are safe: yours is here on the screen,
      the other is on the server. Choose how to go on.
      <div className="acts">
        <Button variant="contained" onClick={() => void keepBoth()}>
          Keep both
        </Button>
        <Button variant="outlined" onClick={() => void keepMine()}>
          Go on with mine
        </Button>
        <Button variant="outlined" onClick={takeTheirs}>
          Take the other
        </Button>
      </div>
    </div>
  );
}
