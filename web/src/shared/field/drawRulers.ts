// Rulers at the upper and left edge of a field's stage: ticks that suit the zoom, numbers that do not touch.
import type { Pen } from "./drawField.js";

const WIDE = 22;
/** Between two numbers at least, px. */
const APART = 56;

function stepFor(scale: number): number {
  return [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10].find((m) => m * scale >= APART) ?? 10;
}

export function drawRulers({ context, view, colours }: Pen, widthPx: number, heightPx: number): void {
  const step = stepFor(view.scale);
  context.fillStyle = colours.paper ?? "";
  context.fillRect(0, 0, widthPx, WIDE);
  context.fillRect(0, 0, WIDE + 14, heightPx);
  context.strokeStyle = colours.hair ?? "";
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(WIDE + 14, WIDE + 0.5);
  context.lineTo(widthPx, WIDE + 0.5);
  context.moveTo(WIDE + 14.5, WIDE);
  context.lineTo(WIDE + 14.5, heightPx);
  context.stroke();
  context.fillStyle = colours.quiet ?? "";
  context.strokeStyle = colours.quiet ?? "";
  context.font = '500 10px "JetBrains Mono Variable", monospace';
  const words = (metres: number) => String(Math.round(metres * 10000) / 100);
  context.textAlign = "center";
  context.beginPath();
  const firstX = Math.ceil((WIDE + 14 - view.originX) / view.scale / step);
  for (let i = firstX; view.originX + i * step * view.scale < widthPx - 20; i += 1) {
    const x = view.originX + i * step * view.scale;
    context.moveTo(x, WIDE - 4);
    context.lineTo(x, WIDE);
    if (x > WIDE + 26) context.fillText(words(i * step), x, WIDE - 8);
  }
  context.textAlign = "right";
  const firstY = Math.ceil((view.originY - heightPx) / view.scale / step);
  for (let i = firstY; view.originY - i * step * view.scale > WIDE; i += 1) {
    const y = view.originY - i * step * view.scale;
    context.moveTo(WIDE + 10, y);
    context.lineTo(WIDE + 14, y);
    if (y > WIDE + 8 && y < heightPx - 6) context.fillText(words(i * step), WIDE + 8, y + 3.5);
  }
  context.stroke();
  context.textAlign = "left";
  context.fillText("cm", 6, WIDE - 8);
}
