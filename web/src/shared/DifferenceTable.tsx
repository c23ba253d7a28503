// What differs between two versions of a thing, one row each.
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";

/** Rows of what differs: two names, and the values before and after. */
export function DifferenceTable(props: { head: string; rows: readonly (readonly [string, string, string, string])[] }) {
  if (props.rows.length === 0) return <p className="quiet">Nothing differs.</p>;
  return (
    <Table className="differences">
      <TableHead>
        <TableRow>
          <TableCell>{props.head}</TableCell>
          <TableCell>What</TableCell>
          <TableCell>Earlier</TableCell>
          <TableCell>Later</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {props.rows.slice(0, 200).map(([thing, what, before, after]) => (
          <TableRow key={`${thing} ${what} ${before} ${after}`}>
            <TableCell>{thing}</TableCell>
            <TableCell>{what}</TableCell>
            <TableCell className="mono">{before}</TableCell>
            <TableCell className="mono">{after}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
