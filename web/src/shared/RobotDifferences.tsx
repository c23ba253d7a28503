// Two versions of a robot side by side: only what differs.
import { compareRobots, type Robot } from "@giddy-pebble/core";

const MOST_ROWS = 200;

export function RobotDifferences({ before, after }: { before: Robot; after: Robot }) {
  const list = compareRobots(before, after);
  if (list.length === 0) return <p className="quiet">Nothing differs.</p>;
  return (
    <table className="differences">
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col">What</th>
          <th scope="col">Earlier</th>
          <th scope="col">Later</th>
        </tr>
      </thead>
      <tbody>
        {list.slice(0, MOST_ROWS).map((row) => (
          <tr key={`${row.part} ${row.label} ${row.before} ${row.after}`}>
            <td>{row.part.replaceAll("_", " ")}</td>
            <td>{row.label}</td>
            <td className="mono">{row.before}</td>
            <td className="mono">{row.after}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
