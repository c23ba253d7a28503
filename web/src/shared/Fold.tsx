// Something that is folded away until its line is pressed.
import Accordion from "@mui/material/Accordion";
import AccordionDetails from "@mui/material/AccordionDetails";
import AccordionSummary from "@mui/material/AccordionSummary";
import { type ReactNode, useState } from "react";

/** @param late - its content is made only once it is opened */
export function Fold({
  summary,
  className = "",
  opened = false,
  late = false,
  children,
}: {
  summary: ReactNode;
  className?: string;
  opened?: boolean;
  late?: boolean;
  children: ReactNode;
}) {
  const [open, setOpen] = useState(opened);
  return (
    <Accordion
      className={`fold ${className}`}
      disableGutters
      elevation={0}
      square
      expanded={open}
      onChange={(_, next) => setOpen(next)}
      slots={{ heading: "div" }}
    >
      <AccordionSummary className="foldline">{summary}</AccordionSummary>
      <AccordionDetails>{(open || !late) && children}</AccordionDetails>
    </Accordion>
  );
}
