// For a robot that is not linked: the program to run, and a sheet to fill in at the table.

import { formatMission, type Procedure, type Robot } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { Fold } from "../../shared/Fold.js";
import { settingsOf, useCalibrate } from "./state.js";

function download(name: string, text: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

export function ProgramAndSheet({ procedure, robot }: { procedure: Procedure; robot: Robot }) {
  const settings = useCalibrate((state) => state.settings[state.procedure.id]);
  const values = settings ?? settingsOf(useCalibrate.getState(), procedure);
  const text = procedure.program(robot, values, 0);
  const other = procedure.program(robot, values, 1);
  const columns = procedure.columns(robot);
  const formatting = text === null ? null : formatMission(text);
  const formatted = formatting?.ok ? formatting.text : text;
  return (
    <>
      <Fold className="card" summary="Without a linked robot: its program and a sheet for the table">
        {formatted === null ? (
          <p>This one has no program: it is done by hand.</p>
        ) : (
          <>
            <pre className="mono">{formatted}</pre>
            {other !== text && <p className="quiet">Runs take turns with a second program; both are in the file.</p>}
            <p>
              <Button
                variant="outlined"
                onClick={() =>
                  download(
                    `${procedure.id}.cairn`,
                    [formatted, ...(other !== null && other !== text ? [other] : [])].join("\n# The next run:\n"),
                  )
                }
              >
                Save the program
              </Button>
            </p>
          </>
        )}
        <Button variant="outlined" onClick={() => window.print()}>
          Print the sheet
        </Button>
      </Fold>
      <div className="sheetonly">
        <h1>
          {procedure.title}: {robot.name}
        </h1>
        <p>{procedure.purpose}</p>
        <p>Place: {procedure.place}</p>
        <p>Measure: {procedure.measure}</p>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>run</TableCell>
              {columns.map(({ id, label, shown }) => (
                <TableCell key={id}>
                  {label} {shown.unit && `(${shown.unit})`}
                </TableCell>
              ))}
              <TableCell>remarks</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {Array.from({ length: Math.max(6, procedure.rowsWanted) }, (_, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: empty lines to write on
              <TableRow key={i}>
                <TableCell>{i + 1}</TableCell>
                {columns.map(({ id }) => (
                  <TableCell key={id} />
                ))}
                <TableCell />
              </TableRow>
            ))}
          </TableBody>
        </Table>
        <p>Field, floor and pack voltage: ____________________ Measured by: ____________________</p>
        {formatted && <pre>{formatted}</pre>}
      </div>
    </>
  );
}
