// The wiring sheet: what the printer gets instead of the page.

import { boardProfile, currentBudget, deviceTerminals } from "@giddy-pebble/core";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { useRobot } from "./state.js";

const words = (text: string) => text.replaceAll("_", " ");

export function WiringSheet() {
  const robot = useRobot((state) => state.robot);
  const notes = useRobot((state) => state.wiring);
  const revision = useRobot((state) => state.open?.headRevision ?? 0);
  const board = boardProfile(robot.board.profile);
  const budget = currentBudget(robot);
  return (
    <section className="sheet" aria-hidden="true">
      <h1>
        {robot.name}, wiring <small>version {revision}</small>
      </h1>
      <p>
        {board?.title}. Pack {robot.pack.nominalVolts} V. Peak draw {budget.peakA.toFixed(1)} A of {budget.mostA} A.
      </p>
      <Table>
        <TableHead>
          <TableRow>
            <TableCell>Part</TableCell>
            <TableCell>Terminal</TableCell>
            <TableCell>Board</TableCell>
            <TableCell>Done</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {deviceTerminals(robot).map((device) => {
            const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
            const motor = robot.motors.find((candidate) => candidate.name === device.part);
            return (
              <TableRow key={`${device.part}.${device.terminal}`}>
                <TableCell>
                  {words(device.part)}
                  {motor?.reversed ? ", reversed" : ""}
                </TableCell>
                <TableCell>{device.label}</TableCell>
                <TableCell>{wire?.to ?? "not wired"}</TableCell>
                <TableCell>☐</TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </Table>
      <ul>
        {notes
          .filter((note) => note.severity !== "fine")
          .map((note) => (
            <li key={note.message}>
              {note.message} {note.mend}
            </li>
          ))}
      </ul>
    </section>
  );
}
