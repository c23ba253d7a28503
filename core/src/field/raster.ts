// The floor as light sensors see it: cells of 2 mm, made tile by tile from the marks when first looked at.
// Cells hold the number of the topmost mark; 0 is the bare surface, or the floor's picture where there is one.
// The same marks give the same cells everywhere.
import { type LinearRgb, linearRgb } from "./colours.js";
import { addCell, type FloorPatch, type FloorPicture, pictureOf } from "./picture.js";
import type { Field } from "./schema.js";
import { strokeRuns } from "./strokes.js";
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

/** A mark made ready: an area, or the straight pieces of a line with half its width. */
interface Ready {
  readonly mark: Mark;
  readonly box: Box;
  /** Ends of the pieces of a line: ax, ay, bx, by each. */
  readonly pieces: Float64Array;
  readonly halfM: number;
}

function readyMark(mark: Mark): Ready {
  if (mark.kind === "area") return { mark, box: areaBox(mark), pieces: new Float64Array(0), halfM: 0 };
  const pieces = Float64Array.from(
    strokeRuns(mark).flatMap((run) =>
      run.slice(1).flatMap((point, i) => {
        const before = run[i] as readonly [number, number];
        return [before[0], before[1], point[0], point[1]];
      }),
    ),
  );
  const halfM = mark.widthM / 2;
  const box = {
    lowX: Number.POSITIVE_INFINITY,
    lowY: Number.POSITIVE_INFINITY,
    highX: Number.NEGATIVE_INFINITY,
    highY: Number.NEGATIVE_INFINITY,
  };
  for (let i = 0; i < pieces.length; i += 2) {
    const [x, y] = [pieces[i] as number, pieces[i + 1] as number];
    box.lowX = Math.min(box.lowX, x - halfM);
    box.lowY = Math.min(box.lowY, y - halfM);
    box.highX = Math.max(box.highX, x + halfM);
    box.highY = Math.max(box.highY, y + halfM);
  }
  return { mark, box, pieces, halfM };
}

function areaBox(mark: Extract<Mark, { kind: "area" }>): Box {
  const points =
    mark.shape.kind === "polygon"
      ? mark.shape.cornersM
      : ([
          [mark.shape.centreM[0] - mark.shape.radiusXM, mark.shape.centreM[1] - mark.shape.radiusYM],
          [mark.shape.centreM[0] + mark.shape.radiusXM, mark.shape.centreM[1] + mark.shape.radiusYM],
        ] as const);
  const xs = points.map(([x]) => x);
  const ys = points.map(([, y]) => y);
  return {
    lowX: Math.min(...xs),
    lowY: Math.min(...ys),
    highX: Math.max(...xs),
    highY: Math.max(...ys),
  };
}

function meets(a: Box, b: Box): boolean {
  return a.lowX <= b.highX && b.lowX <= a.highX && a.lowY <= b.highY && b.lowY <= a.highY;
}

/** Whether a point lies on a line of some width: within half of it of one of its pieces. */
function onLine({ pieces, halfM }: Ready, near: readonly number[], x: number, y: number): boolean {
  const square = halfM * halfM;
  for (const i of near) {
    const ax = pieces[i] as number;
    const ay = pieces[i + 1] as number;
    const ex = (pieces[i + 2] as number) - ax;
    const ey = (pieces[i + 3] as number) - ay;
    const length = ex * ex + ey * ey;
    const t = length > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / length)) : 0;
    const dx = ax + t * ex - x;
    const dy = ay + t * ey - y;
    if (dx * dx + dy * dy <= square) return true;
  }
  return false;
}

/** Pieces of a line that may reach into a box. */
function piecesNear({ pieces, halfM }: Ready, box: Box): number[] {
  const near: number[] = [];
  for (let i = 0; i < pieces.length; i += 4) {
    const [ax, ay] = [pieces[i] as number, pieces[i + 1] as number];
    const [bx, by] = [pieces[i + 2] as number, pieces[i + 3] as number];
    const piece = {
      lowX: Math.min(ax, bx) - halfM,
      lowY: Math.min(ay, by) - halfM,
      highX: Math.max(ax, bx) + halfM,
      highY: Math.max(ay, by) + halfM,
    };
    if (meets(piece, box)) near.push(i);
  }
  return near;
}

type Tile = Uint16Array | number;

export class FloorRaster {
  /** How many tiles were made from marks so far: what a change costs. */
  tilesMade = 0;
  private readonly tiles: Map<number, Tile>;
  private readonly ready: readonly Ready[];
  private readonly picture: FloorPicture | null;
  private readonly lights: readonly number[];
  private readonly colours: readonly LinearRgb[];
  private readonly across: number;
  /** Cells of the disc in hand, by mark. */
  private readonly counts: Int32Array;
  /** Sum of the picture's cells in the disc in hand. */
  private readonly shown: FloorPatch = { light: 0, red: 0, green: 0, blue: 0 };

  /** @param kept - tiles of an earlier floor that look the same */
  constructor(
    readonly field: Field,
    kept?: { readonly tiles: Map<number, Tile>; readonly picture: FloorPicture | null },
  ) {
    const { surface, marks } = field;
    this.tiles = kept?.tiles ?? new Map();
    this.picture = kept ? kept.picture : pictureOf(field);
    this.ready = marks.map(readyMark);
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
      field.size.heightM === before.size.heightM &&
      JSON.stringify(field.picture) === JSON.stringify(before.picture);
    if (!same) return new FloorRaster(field);
    const dirty: Box[] = [];
    field.marks.forEach((mark, i) => {
      const old = before.marks[i] as Mark;
      if (JSON.stringify(old) !== JSON.stringify(mark)) dirty.push(readyMark(old).box, readyMark(mark).box);
    });
    const kept = new Map([...this.tiles].filter(([key]) => !dirty.some((box) => meets(box, this.tileBox(key)))));
    return new FloorRaster(field, { tiles: kept, picture: this.picture });
  }

  private tileBox(key: number): Box {
    const column = key % this.across;
    const row = (key - column) / this.across;
    return { lowX: column * TILE_M, lowY: row * TILE_M, highX: (column + 1) * TILE_M, highY: (row + 1) * TILE_M };
  }

  private tile(key: number): Tile {
    const known = this.tiles.get(key);
    if (known !== undefined) return known;
    const made = this.makeTile(this.tileBox(key));
    this.tiles.set(key, made);
    return made;
  }

  private makeTile(box: Box): Tile {
    const here = this.ready.flatMap((ready, i) => {
      if (!meets(ready.box, box)) return [];
      const near = ready.mark.kind === "area" ? [] : piecesNear(ready, box);
      return ready.mark.kind === "area" || near.length > 0 ? [{ ready, number: i + 1, near }] : [];
    });
    if (here.length === 0) return 0;
    this.tilesMade += 1;
    const cells = new Uint16Array(TILE_CELLS * TILE_CELLS);
    for (let row = 0; row < TILE_CELLS; row += 1) {
      const y = box.lowY + (row + 0.5) * CELL_M;
      for (let column = 0; column < TILE_CELLS; column += 1) {
        const x = box.lowX + (column + 0.5) * CELL_M;
        // The topmost mark is the last one drawn.
        for (let k = here.length - 1; k >= 0; k -= 1) {
          const { ready, number, near } = here[k] as (typeof here)[number];
          const { mark } = ready;
          if (mark.kind === "area" ? shapeContains(mark.shape, [x, y]) : onLine(ready, near, x, y)) {
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
  private oneTile(xM: number, yM: number, reachM: number): Tile | null {
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
    if (this.field.marks.length === 0 && this.field.edge === "open" && !this.picture) return this.wholly(0, out);
    const tile = this.oneTile(xM, yM, diameterM / 2 + CELL_M);
    if (typeof tile === "number" && !(tile === 0 && this.picture)) return this.wholly(tile, out);
    const count = this.countCells(xM / CELL_M - 0.5, yM / CELL_M - 0.5, Math.max(diameterM / 2 / CELL_M, 0.75), tile);
    const { counts, shown } = this;
    out.light = shown.light / count;
    out.red = shown.red / count;
    out.green = shown.green / count;
    out.blue = shown.blue / count;
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
  private countCells(cx: number, cy: number, reach: number, tile: Tile | null): number {
    const { counts, picture } = this;
    counts.fill(0);
    const { shown } = this;
    shown.light = 0;
    shown.red = 0;
    shown.green = 0;
    shown.blue = 0;
    const square = reach * reach;
    let count = 0;
    for (let row = Math.floor(cy - reach) + 1; row <= cy + reach; row += 1) {
      const dy = row - cy;
      for (let column = Math.floor(cx - reach) + 1; column <= cx + reach; column += 1) {
        const dx = column - cx;
        if (dx * dx + dy * dy > square) continue;
        count += 1;
        const mark =
          tile === null
            ? this.cell(column, row)
            : typeof tile === "number"
              ? tile
              : (tile[(row % TILE_CELLS) * TILE_CELLS + (column % TILE_CELLS)] as number);
        if (picture && mark === 0 && row < picture.rows && column < picture.columns && row >= 0 && column >= 0) {
          addCell(picture, column, row, 1, shown);
          continue;
        }
        // Beyond the rim there is nothing that sends light back.
        if (mark >= 0) counts[mark] = (counts[mark] as number) + 1;
      }
    }
    return count;
  }
}
