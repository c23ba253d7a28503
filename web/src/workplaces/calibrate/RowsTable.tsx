// The table of measurements: typed, struck out, run again. A number is read in its column's unit, or in the one typed.

import {
  type Column,
  doubtOf,
  findUnit,
  type TableRow as MeasuredRow,
  type Procedure,
  plainDigits,
  type Robot,
  readQuantity,
} from "@giddy-pebble/core";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { type KeyboardEvent, useEffect, useState } from "react";
import { Pick, Typed } from "../../shared/controls.js";
import { rowsOf, useCalibrate } from "./state.js";
import { changeRows } from "./store.js";

const EMPTY: MeasuredRow = { values: {}, struck: false };

export function RowsTable({
  procedure,
  robot,
  doubtful,
}: {
  procedure: Procedure;
  robot: Robot;
  doubtful: readonly { readonly row: number; readonly why: string }[];
}) {
  const rows = useCalibrate((state) => rowsOf(state));
  const columns = procedure.columns(robot);
  const set = (index: number, id: string, value: number | null) => {
    const row = rows[index] ?? EMPTY;
    const next = { ...row, values: { ...row.values, [id]: value } };
    changeRows(
      index < rows.length ? rows.map((old, i) => (i === index ? next : old)) : [...rows, next],
      "a typed number",
    );
  };
  const strike = (index: number) =>
    changeRows(
      rows.map((row, i) => (i === index ? { ...row, struck: !row.struck } : row)),
      `striking out row ${index + 1}`,
    );
  return (
    <div className="rowstable">
      <Table>
        <TableHead>
          <TableRow>
            <TableCell>run</TableCell>
            {columns.map((column) => (
              <TableCell key={column.id} title={column.hint}>
                {column.label}
                {column.shown.unit && !column.label.endsWith(` ${column.shown.unit}`) && (
                  <span className="quiet"> {column.shown.unit}</span>
                )}
              </TableCell>
            ))}
            <TableCell>
              <span className="sr">strike out</span>
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {[...rows, EMPTY].map((row, index) => {
            const isNew = index === rows.length;
            const doubt = doubtful.find((one) => one.row === index);
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows are numbered, that is their name
              <TableRow key={`${procedure.id}-${index}`} className={row.struck ? "struckrow" : doubt ? "doubtful" : ""}>
                <TableCell component="th" scope="row" className="mono">
                  {isNew ? "+" : index + 1}
                </TableCell>
                {columns.map((column) =>
                  column.choices ? (
                    <TableCell key={column.id}>
                      <Pick
                        aria-label={`${column.label}, row ${index + 1}`}
                        value={row.values[column.id] ?? ""}
                        onChange={(event) =>
                          set(index, column.id, event.target.value === "" ? null : Number(event.target.value))
                        }
                      >
                        <option value="">…</option>
                        {column.choices.map(({ value, words }) => (
                          <option key={value} value={value}>
                            {words}
                          </option>
                        ))}
                      </Pick>
                    </TableCell>
                  ) : (
                    <Cell
                      key={column.id}
                      column={column}
                      row={index}
                      value={row.values[column.id] ?? null}
                      others={rows.flatMap((other, i) =>
                        i !== index && !other.struck && typeof other.values[column.id] === "number"
                          ? [other.values[column.id] as number]
                          : [],
                      )}
                      set={(value) => set(index, column.id, value)}
                    />
                  ),
                )}
                <TableCell>
                  {!isNew && (
                    <button
                      type="button"
                      className="plain"
                      aria-pressed={row.struck}
                      aria-label={row.struck ? `Count row ${index + 1} again` : `Strike out row ${index + 1}`}
                      title={doubt?.why ?? (row.struck ? "Count it again" : "Strike it out")}
                      onClick={() => strike(index)}
                    >
                      {row.struck ? "↺" : "×"}
                    </button>
                  )}
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </Table>
      {doubtful.map(({ row, why }) => (
        <p key={row} className="amberwords">
          Row {row + 1}: {why}
        </p>
      ))}
      {rows.length > 0 && (
        <button type="button" className="plain link" onClick={() => changeRows([], "emptying the table")}>
          Empty the table
        </button>
      )}
    </div>
  );
}

/** What a person typed, in SI; or why it cannot be. */
function readCell(text: string, column: Column): { readonly value: number | null } | { readonly why: string } {
  const trimmed = text.trim().replace(",", ".").replace("−", "-");
  if (trimmed === "") return { value: null };
  const { unit, perSi } = column.shown;
  const found = unit === "" ? undefined : findUnit(unit);
  // Turns of a wheel are counted here, though the language has turns as an angle.
  const dimension = found && Math.abs(found.scale * perSi - 1) < 1e-9 ? found.dimension : undefined;
  if (dimension) {
    const read = readQuantity(trimmed, dimension, unit);
    return read.ok ? { value: read.quantity.value } : { why: read.message };
  }
  const match = /^([+-]?\d+(?:\.\d+)?)\s*(.*)$/.exec(trimmed);
  if (!match) return { why: `"${text.trim()}" is not a number. Write for example 3 ${unit}`.trim() };
  if (match[2] !== "" && match[2] !== unit)
    return { why: `This is kept in ${unit || "plain numbers"}. Leave "${match[2]}" out.` };
  return { value: Number(match[1]) / perSi };
}

function Cell({
  column,
  row,
  value,
  others,
  set,
}: {
  column: Column;
  row: number;
  value: number | null;
  others: readonly number[];
  set: (value: number | null) => void;
}) {
  const shown = value === null ? "" : plainDigits(value * column.shown.perSi, column.shown.digits);
  const [text, setText] = useState(shown);
  const [refused, setRefused] = useState<string | null>(null);
  // A number that was taken can still be questioned, for as long as it stands.
  const why = refused ?? (value === null ? null : (doubtOf(column, value, others)?.why ?? null));
  // A run, an undo or another robot changes what stands here.
  useEffect(() => {
    setText(shown);
    setRefused(null);
  }, [shown]);
  const commit = () => {
    if (text === shown) return setRefused(null);
    const read = readCell(text, column);
    if ("why" in read) return setRefused(read.why);
    const doubt = read.value === null ? null : doubtOf(column, read.value, others);
    setRefused(doubt?.refused ? doubt.why : null);
    if (!doubt?.refused) set(read.value);
  };
  const keys = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Escape") setText(shown);
    if (event.key !== "Enter") return;
    commit();
    const id = `cell-${column.id}-${row + 1}`;
    requestAnimationFrame(() => document.getElementById(id)?.focus());
  };
  const wrong = `why-${column.id}-${row}`;
  return (
    <TableCell>
      <Typed
        id={`cell-${column.id}-${row}`}
        className="mono"
        inputMode="decimal"
        value={text}
        aria-label={`${column.label}, row ${row + 1}`}
        aria-invalid={refused !== null}
        aria-describedby={why ? wrong : undefined}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={keys}
      />
      {why && (
        <span id={wrong} className="why" role="alert">
          {why}
        </span>
      )}
    </TableCell>
  );
}
