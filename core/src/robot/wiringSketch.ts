// The wiring of a robot as SVG text: devices at the left, the board at the right, one line a wire.
import { escapeHtml } from "../words/escape.js";
import { boardProfile } from "./boards.js";
import { deviceTerminals } from "./needs.js";
import type { Robot } from "./schema.js";

const ROW = 18;
const GAP = 10;
const LEFT = 10;
const DEVICES_RIGHT = 250;
const BOARD_LEFT = 470;
const WIDTH = 640;

const words = (text: string) => text.replaceAll("_", " ");

interface Line {
  readonly from: number;
  readonly to: number;
  readonly colour: string;
}

/** @returns the text of an SVG file; null when nothing is wired or the board is not known */
export function wiringSketch(robot: Robot): string | null {
  const board = boardProfile(robot.board.profile);
  const devices = deviceTerminals(robot);
  const wired = devices.flatMap((device) => {
    const wire = robot.wiring.find((one) => one.part === device.part && one.terminal === device.terminal);
    const terminal = wire ? board?.terminals.find(({ id }) => id === wire.to) : undefined;
    return terminal ? [{ device, terminal }] : [];
  });
  if (!board || wired.length === 0) return null;
  const used = board.terminals.filter((terminal) => wired.some((one) => one.terminal === terminal));
  const boardHeight = used.length * ROW + 16;
  const parts = [...new Set(wired.map(({ device }) => device.part))];
  const devicesHeight = wired.length * ROW + parts.length * (ROW + GAP);
  const height = Math.max(boardHeight, devicesHeight) + 20;
  const boardTop = (height - boardHeight) / 2;
  const terminalY = (id: string) => boardTop + 8 + used.findIndex((terminal) => terminal.id === id) * ROW + ROW / 2;

  const out: string[] = [];
  const lines: Line[] = [];
  let y = (height - devicesHeight) / 2;
  for (const part of parts) {
    const own = wired.filter(({ device }) => device.part === part);
    const plug = own.length === 1 && own[0]?.device.terminal === "plug";
    out.push(
      `<rect x="${LEFT}" y="${y}" width="${DEVICES_RIGHT - LEFT}" height="${(own.length + 1) * ROW}" rx="4" fill="#FFFEFB" stroke="#1E2B33"/>`,
      `<text x="${LEFT + 8}" y="${y + 13}" font-weight="bold">${escapeHtml(words(part))}</text>`,
    );
    own.forEach(({ device, terminal }, i) => {
      const rowY = y + (i + 1) * ROW + ROW / 2;
      out.push(
        `<text x="${DEVICES_RIGHT - 10}" y="${rowY + 4}" text-anchor="end">${escapeHtml(plug ? "plug" : words(device.label))}</text>`,
      );
      const colour = device.ground ? "#1E2B33" : device.supply && device.terminal === "power" ? "#B86E00" : "#0E6A6B";
      lines.push({ from: rowY, to: terminalY(terminal.id), colour });
    });
    y += (own.length + 1) * ROW + GAP;
  }
  const middle = (DEVICES_RIGHT + BOARD_LEFT) / 2;
  const wires = lines.map(
    ({ from, to, colour }) =>
      `<path d="M${DEVICES_RIGHT} ${from}C${middle} ${from} ${middle} ${to} ${BOARD_LEFT} ${to}" fill="none" stroke="${colour}" stroke-width="1.6"/>`,
  );
  const pins = used.map(
    ({ id }) =>
      `<circle cx="${BOARD_LEFT}" cy="${terminalY(id)}" r="4" fill="#1E2B33"/><text x="${BOARD_LEFT + 12}" y="${terminalY(id) + 4}">${escapeHtml(`${board.style === "plugs" ? "socket " : ""}${id}`)}</text>`,
  );
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" font-family="sans-serif" font-size="12" fill="#1E2B33">`,
    `<rect x="${BOARD_LEFT}" y="${boardTop}" width="${WIDTH - BOARD_LEFT - 10}" height="${boardHeight}" rx="6" fill="#F4F1EA" stroke="#1E2B33"/>`,
    `<text x="${WIDTH - 10}" y="${boardTop - 8}" text-anchor="end" font-weight="bold">${escapeHtml(board.title)}</text>`,
    ...out,
    ...wires,
    ...pins,
    "</svg>",
    "",
  ].join("\n");
}
