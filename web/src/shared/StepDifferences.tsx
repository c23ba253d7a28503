// How the steps of two runs differed: those that clearly did.

import { differenceWords, isNotable, type RunDifference } from "@giddy-pebble/core";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";

const MOST_ROWS = 12;
/** A step that took this much longer or shorter is worth a word, ms. */
const LONGER_MS = 500;

export function StepDifferences({ difference, same }: { difference: RunDifference; same: string }) {
  const steps = difference.steps.filter(isNotable);
  if (steps.length === 0) return <p className="quiet">{same}</p>;
  return (
    <Table className="differences">
      <TableHead>
        <TableRow>
          <TableCell>step</TableCell>
          <TableCell>differed</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {steps.slice(0, MOST_ROWS).map((step) => (
          <TableRow key={`${step.step}/${step.pass}`}>
            <TableCell>
              <span className="mono">{step.step}</span> {step.text}
            </TableCell>
            <TableCell>
              {differenceWords(step)}
              {Math.abs(step.longerMs) > LONGER_MS &&
                `, ${Math.abs(step.longerMs / 1000).toFixed(1)} s ${step.longerMs > 0 ? "longer" : "shorter"}`}
              {step.ended && `, ${step.ended}`}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
