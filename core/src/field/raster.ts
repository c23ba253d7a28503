// The floor as light sensors see it: cells of 2 mm, made tile by tile from the marks when first looked at.
// Cells hold the number of the topmost mark; 0 is the bare surface. The same marks give the same cells everywhere.
import { type LinearRgb, linearRgb } from "./colours.js";
import type { Field } from "./schema.js";
import { shapeContains } from "./zones.js";

export const CELL_M = 0.002;
const TILE_CELLS = 32;
const TILE_M = TILE_CELLS * CELL_M;
type Mark = Field["marks"][number];

interface Box {
  readonly lowX: number;
  readonly lowY: number;
  readonly highX: number;
  readonly highY: number;
}

/** What a patch of floor looks like. */
export interface FloorPatch {
  /** Share of light sent back, 0..1. */
  light: number;
  red: number;
  green: number;
  blue: number;
}

function boxOf(mark: Mark): Box {
  const points =
    mark.kind === "line"
      ? mark.pointsM
      : mark.shape.kind === "polygon"
        ? mark.shape.cornersM
        : ([
            [mark.shape.centreM[0] - mark.shape.radiusXM, mark.shape.centreM[1] - mark.shape.radiusYM],
            [mark.shape.centreM[0] + mark.shape.radiusXM, mark.shape.centreM[1] + mark.shape.radiusYM],
          ] as const);
  const half = mark.kind === "line" ? mark.widthM / 2 : 0;
  const xs = points.map(([x]) => x);
  const ys = points.map(([, y]) => y);
  return {
    lowX: Math.min(...xs) - half,
    lowY: Math.min(...ys) - half,
    highX: Math.max(...xs) + half,
    highY: Math.max(...ys) + half,
  };
}

function meets(a: Box, b: Box): boolean {
  return a.lowX <= b.highX && b.lowX <= a.highX && a.lowY <= b.highY && b.lowY <= a.highY;
}

/** Whether a point lies on a line of some width: within half of it of one of its pieces. */
function onLine(mark: Extract<Mark, { kind: "line" }>, pieces: readonly number[], x: number, y: number): boolean {
  const square = (mark.widthM / 2) ** 2;
  for (const i of pieces) {
    const [ax, ay] = mark.pointsM[i] as readonly [number, number];
    const [bx, by] = mark.pointsM[i + 1] as readonly [number, number];
    const ex = bx - ax;
    const ey = by - ay;
    const length = ex * ex + ey * ey;
    const t = length > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / length)) : 0;
    const dx = ax + t * ex - x;
    const dy = ay + t * ey - y;
    if (dx * dx + dy * dy <= square) return true;
  }
  return false;
}

/** Pieces of a line that may reach into a box. */
function piecesNear(mark: Extract<Mark, { kind: "line" }>, box: Box): number[] {
  const half = mark.widthM / 2;
  const near: number[] = [];
  for (let i = 0; i + 1 < mark.pointsM.length; i += 1) {
    const [ax, ay] = mark.pointsM[i] as readonly [number, number];
    const [bx, by] = mark.pointsM[i + 1] as readonly [number, number];
    const piece = {
      lowX: Math.min(ax, bx) - half,
      lowY: Math.min(ay, by) - half,
      highX: Math.max(ax, bx) + half,
      highY: Math.max(ay, by) + half,
    };
    if (meets(piece, box)) near.push(i);
  }
  return near;
}

export class FloorRaster {
  /** How many tiles were made from marks so far: what a change costs. */
  tilesMade = 0;
  private readonly tiles: Map<number, Uint8Array | number>;
  private readonly boxes: readonly Box[];
  private readonly lights: readonly number[];
  private readonly colours: readonly LinearRgb[];
  private readonly across: number;
  /** Cells of the disc in hand, by mark. */
  private readonly counts: Int32Array;

  /** @param kept - tiles of an earlier floor that look the same */
  constructor(
    readonly field: Field,
    kept?: Map<number, Uint8Array | number>,
  ) {
    const { surface, marks } = field;
    this.tiles = kept ?? new Map();
    this.boxes = marks.map(boxOf);
    this.lights = [surface.reflectance, ...marks.map((mark) => mark.reflectance)];
    this.colours = [linearRgb(surface.colour), ...marks.map((mark) => linearRgb(mark.colour))];
    this.across = Math.floor(field.size.widthM / TILE_M) + 2;
    this.counts = new Int32Array(marks.length + 1);
  }

  /**
   * The floor of a changed field: tiles are made anew only where a mark came, went or changed.
   * Marks are matched by their place in the list.
   */
  changed(field: Field): FloorRaster {
    const before = this.field;
    const same =
      field.marks.length === before.marks.length &&
      field.size.widthM === before.size.widthM &&
      field.size.heightM === before.size.heightM;
    if (!same) return new FloorRaster(field);
    const dirty: Box[] = [];
    field.marks.forEach((mark, i) => {
      const old = before.marks[i] as Mark;
      if (JSON.stringify(old) !== JSON.stringify(mark)) dirty.push(boxOf(old), boxOf(mark));
    });
    const kept = new Map([...this.tiles].filter(([key]) => !dirty.some((box) => meets(box, this.tileBox(key)))));
    return new FloorRaster(field, kept);
  }

  private tileBox(key: number): Box {
    const column = key % this.across;
    const row = (key - column) / this.across;
    return { lowX: column * TILE_M, lowY: row * TILE_M, highX: (column + 1) * TILE_M, highY: (row + 1) * TILE_M };
  }

  private tile(key: number): Uint8Array | number {
    const known = this.tiles.get(key);
    if (known !== undefined) return known;
    const made = this.makeTile(this.tileBox(key));
    this.tiles.set(key, made);
    return made;
  }

  private makeTile(box: Box): Uint8Array | number {
    const { marks } = this.field;
    const here = marks.flatMap((mark, i) =>
      meets(this.boxes[i] as Box, box)
        ? [{ mark, number: i + 1, pieces: mark.kind === "line" ? piecesNear(mark, box) : [] }]
        : [],
    );
    if (here.length === 0) return 0;
    this.tilesMade += 1;
    const cells = new Uint8Array(TILE_CELLS * TILE_CELLS);
    for (let row = 0; row < TILE_CELLS; row += 1) {
      const y = box.lowY + (row + 0.5) * CELL_M;
      for (let column = 0; column < TILE_CELLS; column += 1) {
        const x = box.lowX + (column + 0.5) * CELL_M;
        // The topmost mark is the last one drawn.
        for (let k = here.length - 1; k >= 0; k -= 1) {
          const { mark, number, pieces } = here[k] as (typeof here)[number];
          if (mark.kind === "line" ? onLine(mark, pieces, x, y) : shapeContains(mark.shape, [x, y])) {
            cells[row * TILE_CELLS + column] = number;
            break;
          }
        }
      }
    }
    const [first] = cells as unknown as readonly [number];
    return cells.every((cell) => cell === first) ? first : cells;
  }

  /** Number of the topmost mark at a cell, 0 for the bare surface, -1 beyond a rim. */
  cell(column: number, row: number): number {
    const { widthM, heightM } = this.field.size;
    const x = (column + 0.5) * CELL_M;
    const y = (row + 0.5) * CELL_M;
    if (x < 0 || y < 0 || x > widthM || y > heightM) return this.field.edge === "rim" ? -1 : 0;
    const tileColumn = Math.floor(column / TILE_CELLS);
    const tileRow = Math.floor(row / TILE_CELLS);
    const tile = this.tile(tileRow * this.across + tileColumn);
    if (typeof tile === "number") return tile;
    return tile[(row - tileRow * TILE_CELLS) * TILE_CELLS + (column - tileColumn * TILE_CELLS)] as number;
  }

  /** The tile a square lies in as a whole, inside the field; null when it lies in several. */
  private oneTile(xM: number, yM: number, reachM: number): Uint8Array | number | null {
    const { widthM, heightM } = this.field.size;
    if (xM < reachM || yM < reachM || xM > widthM - reachM || yM > heightM - reachM) return null;
    const column = Math.floor((xM - reachM) / TILE_M);
    const row = Math.floor((yM - reachM) / TILE_M);
    if (column !== Math.floor((xM + reachM) / TILE_M) || row !== Math.floor((yM + reachM) / TILE_M)) return null;
    return this.tile(row * this.across + column);
  }

  private wholly(mark: number, out: FloorPatch): void {
    const [red, green, blue] = this.colours[mark] as LinearRgb;
    out.light = this.lights[mark] as number;
    out.red = red;
    out.green = green;
    out.blue = blue;
  }

  /** Mean of the floor over a disc: every cell whose middle lies in it counts the same. */
  disc(xM: number, yM: number, diameterM: number, out: FloorPatch): void {
    if (this.field.marks.length === 0 && this.field.edge === "open") return this.wholly(0, out);
    const tile = this.oneTile(xM, yM, diameterM / 2 + CELL_M);
    if (typeof tile === "number") return this.wholly(tile, out);
    const count = this.countCells(xM / CELL_M - 0.5, yM / CELL_M - 0.5, Math.max(diameterM / 2 / CELL_M, 0.75), tile);
    out.light = 0;
    out.red = 0;
    out.green = 0;
    out.blue = 0;
    const { counts } = this;
    for (let mark = 0; mark < counts.length; mark += 1) {
      const share = (counts[mark] as number) / count;
      if (share === 0) continue;
      const colour = this.colours[mark] as LinearRgb;
      out.light += share * (this.lights[mark] as number);
      out.red += share * colour[0];
      out.green += share * colour[1];
      out.blue += share * colour[2];
    }
  }

  /** Counts the cells of a disc by their marks. @returns how many there are, those beyond the rim included */
  private countCells(cx: number, cy: number, reach: number, tile: Uint8Array | null): number {
    const { counts } = this;
    counts.fill(0);
    const square = reach * reach;
    let count = 0;
    for (let row = Math.floor(cy - reach) + 1; row <= cy + reach; row += 1) {
      const dy = row - cy;
      for (let column = Math.floor(cx - reach) + 1; column <= cx + reach; column += 1) {
        const dx = column - cx;
        if (dx * dx + dy * dy > square) continue;
        count += 1;
        const mark = tile
          ? (tile[(row % TILE_CELLS) * TILE_CELLS + (column % TILE_CELLS)] as number)
          : this.cell(column, row);
        // Beyond the rim there is nothing that sends light back.
        if (mark >= 0) counts[mark] = (counts[mark] as number) + 1;
      }
    }
    return count;
  }
}
