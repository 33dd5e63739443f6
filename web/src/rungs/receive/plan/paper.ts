/** The sheet that a plan is drawn on: metres to pixels and back. No interface code. */

export type Spot = [number, number];

export interface Sheet {
  /** Pixels a metre. */
  scale: number;
  /** The place in metres that lies in the middle of the sheet. */
  middle: Spot;
  width: number;
  height: number;
}

export const toPixels = (sheet: Sheet, [x, y]: Spot): Spot => [
  sheet.width / 2 + (x - sheet.middle[0]) * sheet.scale,
  sheet.height / 2 - (y - sheet.middle[1]) * sheet.scale,
];

export const toMetres = (sheet: Sheet, [x, y]: Spot): Spot => [
  sheet.middle[0] + (x - sheet.width / 2) / sheet.scale,
  sheet.middle[1] - (y - sheet.height / 2) / sheet.scale,
];

/** A sheet that holds a box with a margin. */
export function fitting(box: number[][], width: number, height: number): Sheet {
  const [low, high] = box as [Spot, Spot];
  const wide = Math.max(high[0] - low[0], 1e-3);
  const tall = Math.max(high[1] - low[1], 1e-3);
  return {
    scale: 0.88 * Math.min(width / wide, height / tall),
    middle: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2],
    width,
    height,
  };
}

/** The sheet drawn larger or smaller, with what lies under a pixel staying there. */
export function zoomed(sheet: Sheet, by: number, at: Spot): Sheet {
  const before = toMetres(sheet, at);
  const scale = Math.min(1e5, Math.max(1e-5, sheet.scale * by));
  const after = toMetres({ ...sheet, scale }, at);
  return {
    ...sheet,
    scale,
    middle: [sheet.middle[0] + before[0] - after[0], sheet.middle[1] + before[1] - after[1]],
  };
}

/** A round length, 1, 2 or 5 times a power of ten metres, of at most so many pixels. */
export function scaleBar(sheet: Sheet, pixels: number): number {
  const most = pixels / sheet.scale;
  const power = 10 ** Math.floor(Math.log10(most));
  return [5, 2, 1].map((factor) => factor * power).find((length) => length <= most)!;
}

/** Twice the area inside, positive when it runs counter-clockwise. */
const twiceArea = (ring: Spot[]) =>
  ring.reduce((sum, [x, y], at) => {
    const [nx, ny] = ring[(at + 1) % ring.length]!;
    return sum + x * ny - nx * y;
  }, 0);

export const areaOf = (ring: Spot[]) => Math.abs(twiceArea(ring)) / 2;

/** Whether two edges of the ring cross. */
export function crossesItself(ring: Spot[]): boolean {
  const side = (a: Spot, b: Spot, c: Spot) => Math.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]));
  for (let i = 0; i < ring.length; i++)
    for (let j = i + 2; j < ring.length; j++) {
      if (i === 0 && j === ring.length - 1) continue;
      const [a, b, c, d] = [ring[i]!, ring[i + 1]!, ring[j]!, ring[(j + 1) % ring.length]!];
      if (side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0) return true;
    }
  return false;
}

/** Corners as text, one to a line, metres to the millimetre. */
export const written = (ring: Spot[]) => ring.map(([x, y]) => `${x.toFixed(3)}, ${y.toFixed(3)}`).join("\n");

/** Corners from text; null where a line is no pair of numbers. */
export function readCorners(text: string): Spot[] | null {
  const lines = text.split("\n").filter((line) => line.trim());
  const ring = lines.map(
    (line) =>
      line
        .trim()
        .split(/[\s,;]+/)
        .map(Number) as Spot,
  );
  return ring.every((spot) => spot.length === 2 && spot.every(Number.isFinite)) ? ring : null;
}
