// A short message at the foot of the page: says what happened, and goes by itself.
import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";
import { useEffect, useState } from "react";

const SHOWN_MS = 6000;

export function Toast({ message, clear }: { message: string | null; clear: () => void }) {
  // The words stay for the moment in which it closes.
  const [words, setWords] = useState(message);
  useEffect(() => {
    if (message !== null) setWords(message);
  }, [message]);
  return (
    <Snackbar
      key={message ?? words}
      open={message !== null}
      autoHideDuration={SHOWN_MS}
      anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
      onClose={(_, reason) => reason !== "clickaway" && clear()}
      message={message ?? words}
      action={
        <Button color="inherit" onClick={clear}>
          Close
        </Button>
      }
      slotProps={{ content: { role: "status", className: "toast" } }}
    />
  );
}
