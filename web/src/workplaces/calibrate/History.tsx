// What was measured before: each calibration of this kind with its rows' result and the version that took it over.
import type { Procedure } from "@giddy-pebble/core";
import { useCalibrate } from "./state.js";

export function History({ procedure }: { procedure: Procedure }) {
  const history = useCalibrate((state) => state.history).filter(({ quantity }) => quantity === procedure.id);
  if (history.length === 0) return null;
  return (
    <div className="card">
      <h3>Measured before</h3>
      <ul className="calibrations">
        {history.map((made) => (
          <li key={made.id}>
            <span className="mono quiet">
              {new Date(made.createdAt).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
            </span>
            <span>{made.result.title ?? ""}</span>
            <span className="quiet">
              {made.rows.length} rows ·{" "}
              {made.appliedNumber === null ? "kept, not used" : `version ${made.appliedNumber}`}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
