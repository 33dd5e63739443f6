import type { Outlines } from "../../../api/client";
import { metric } from "../../../ui/format";
import { bar, freshPen } from "../plan/pen";
import { type Sheet, type Spot, toPixels } from "../plan/paper";

const INK = "#1d2730";
const SOFT = "#6f6a60";
const ROPE = "#a2743a";
const SEA = "#17695f";
const SIGNAL = "#b8400b";

/** Where each shape's points begin, and the middle that they are told around. */
export interface Laid {
  starts: number[];
  points: Float32Array;
  middle: Spot;
}

export function laid(view: Outlines): Laid {
  const bytes = Uint8Array.from(atob(view.points), (character) => character.charCodeAt(0));
  const starts: number[] = [];
  let at = 0;
  for (const shape of view.shapes) {
    starts.push(at);
    for (const count of shape.counts) at += count;
  }
  const [low, high] = view.box as [Spot, Spot];
  return {
    starts,
    points: new Float32Array(bytes.buffer),
    middle: [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2],
  };
}

/** All outlines: solids filled, holes hatched, lines thin; gaps and thin walls marked; a scale bar. */
export function drawOutlines(
  canvas: HTMLCanvasElement,
  sheet: Sheet,
  view: Outlines,
  shapes: Laid,
  chosen: ReadonlySet<number>,
) {
  const pen = freshPen(canvas, sheet);
  if (!pen) return;
  const hatch = hatching(pen);
  view.shapes.forEach((shape, number) => {
    const path = pathOf(sheet, shapes, number, shape.counts, shape.closed);
    paint(pen, sheet, shape, path, hatch);
  });
  view.shapes.forEach((shape, number) => {
    if (!chosen.has(shape.part)) return;
    pen.strokeStyle = SEA;
    pen.lineWidth = 3;
    pen.setLineDash([]);
    pen.stroke(pathOf(sheet, shapes, number, shape.counts, shape.closed));
  });
  gaps(pen, sheet, view, shapes);
  thin(pen, sheet, view);
  bar(pen, sheet);
}

type Shape = Outlines["shapes"][number];

function paint(pen: CanvasRenderingContext2D, sheet: Sheet, shape: Shape, path: Path2D, hatch: CanvasPattern | null) {
  const line = shape.stroke * sheet.scale;
  pen.setLineDash([]);
  if (shape.role === "hole") {
    pen.fillStyle = "#fff";
    pen.fill(path, "evenodd");
    pen.fillStyle = hatch ?? "#fff";
    pen.fill(path, "evenodd");
    pen.strokeStyle = SOFT;
    pen.lineWidth = 1;
    pen.setLineDash([4, 3]);
    pen.stroke(path);
    return;
  }
  const solid = shape.role === "solid" || shape.role === "joined";
  if (shape.stroke > 0) {
    pen.strokeStyle = solid ? `${ROPE}b0` : `${SOFT}66`;
    pen.lineWidth = Math.max(1, line);
    pen.stroke(path);
    return;
  }
  if (solid) {
    pen.fillStyle = shape.wall > 0 ? "#ffffff00" : shape.height ? `${ROPE}66` : `${ROPE}2b`;
    pen.fill(path, "evenodd");
    if (shape.wall > 0) {
      pen.strokeStyle = `${ROPE}90`;
      pen.lineWidth = Math.max(2, shape.wall * sheet.scale);
      pen.stroke(path);
    }
  }
  pen.strokeStyle = shape.role === "line" ? `${SOFT}77` : INK;
  pen.lineWidth = shape.role === "line" ? 0.7 : 1;
  if (shape.role === "waiting") pen.setLineDash([1, 2]);
  pen.stroke(path);
}

function pathOf(sheet: Sheet, shapes: Laid, number: number, counts: number[], closed: boolean[]): Path2D {
  const path = new Path2D();
  const [mx, my] = toPixels(sheet, shapes.middle);
  let at = shapes.starts[number]! * 2;
  counts.forEach((count, ring) => {
    for (let i = 0; i < count; i++, at += 2) {
      const x = mx + shapes.points[at]! * sheet.scale;
      const y = my - shapes.points[at + 1]! * sheet.scale;
      if (i) path.lineTo(x, y);
      else path.moveTo(x, y);
    }
    if (closed[ring]) path.closePath();
  });
  return path;
}

/** The shape under a spot in pixels: the last drawn whose inside or line is there. */
export function shapeAt(sheet: Sheet, view: Outlines, shapes: Laid, [x, y]: Spot): number | null {
  const pen = document.createElement("canvas").getContext("2d");
  if (!pen) return null;
  for (const filled of [true, false])
    for (let number = view.shapes.length - 1; number >= 0; number--) {
      const shape = view.shapes[number]!;
      const path = pathOf(sheet, shapes, number, shape.counts, shape.closed);
      pen.lineWidth = Math.max(7, shape.stroke * sheet.scale);
      const area = shape.role !== "line" && shape.stroke === 0;
      if (filled ? area && pen.isPointInPath(path, x, y, "evenodd") : pen.isPointInStroke(path, x, y)) return number;
    }
  return null;
}

function hatching(pen: CanvasRenderingContext2D): CanvasPattern | null {
  const tile = document.createElement("canvas");
  tile.width = tile.height = 7;
  const own = tile.getContext("2d");
  if (!own) return null;
  own.strokeStyle = `${SEA}70`;
  own.lineWidth = 1;
  own.beginPath();
  own.moveTo(-1, 8);
  own.lineTo(8, -1);
  own.stroke();
  return pen.createPattern(tile, "repeat");
}

function gaps(pen: CanvasRenderingContext2D, sheet: Sheet, view: Outlines, shapes: Laid) {
  view.shapes.forEach((shape, number) => {
    if (shape.gap == null || shape.role === "solid") return;
    const last = shapes.starts[number]! + shape.counts[0]! - 1;
    for (const at of [shapes.starts[number]!, last]) {
      const [x, y] = toPixels(sheet, [
        shapes.middle[0] + shapes.points[at * 2]!,
        shapes.middle[1] + shapes.points[at * 2 + 1]!,
      ]);
      ring(pen, x, y, 5);
    }
  });
}

function thin(pen: CanvasRenderingContext2D, sheet: Sheet, view: Outlines) {
  for (const place of view.thin) {
    const [x, y] = toPixels(sheet, [place.x, place.y]);
    ring(pen, x, y, 8);
    const text = metric(place.width);
    pen.font = "600 12px sans-serif";
    const wide = pen.measureText(text).width;
    pen.fillStyle = "#fffdf8e6";
    pen.fillRect(x + 10, y - 9, wide + 8, 18);
    pen.fillStyle = SIGNAL;
    pen.fillText(text, x + 14, y + 4);
  }
}

function ring(pen: CanvasRenderingContext2D, x: number, y: number, radius: number) {
  pen.setLineDash([]);
  pen.strokeStyle = SIGNAL;
  pen.lineWidth = 2;
  pen.beginPath();
  pen.arc(x, y, radius, 0, 2 * Math.PI);
  pen.stroke();
}
