// A panel over the corner of the page: says what it is, closes by its button or Escape.
import Button from "@mui/material/Button";
import Drawer from "@mui/material/Drawer";
import { type ReactNode, useEffect } from "react";

export function Panel({
  title,
  label,
  close,
  children,
}: {
  title: string;
  label: string;
  close: () => void;
  children: ReactNode;
}) {
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if (event.key === "Escape") close();
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [close]);
  return (
    <Drawer
      variant="permanent"
      anchor="right"
      className="paneldrawer"
      slotProps={{ paper: { component: "aside", "aria-label": label, className: "panel" } as object }}
    >
      <header>
        <h2>{title}</h2>
        <Button onClick={close}>Close</Button>
      </header>
      {children}
    </Drawer>
  );
}
