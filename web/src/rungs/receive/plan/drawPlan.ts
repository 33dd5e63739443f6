import type { Plan } from "../../../api/client";
import { bar, freshPen } from "./pen";
import { type Sheet, type Spot, toPixels } from "./paper";

const INK = "#1d2730";
const SOFT = "#7c7568";
const FIELD = "#1f6f78";

/** Outlines of all placements, those that enter filled; the polygon over them; a scale bar. */
export function drawPlan(
  canvas: HTMLCanvasElement,
  sheet: Sheet,
  plan: Plan,
  corners: Float32Array,
  ring: Spot[],
  loose: Spot | null,
) {
  const pen = freshPen(canvas, sheet);
  if (!pen) return;
  outlines(pen, sheet, plan, corners);
  polygon(pen, sheet, ring, loose);
  bar(pen, sheet);
}

function outlines(pen: CanvasRenderingContext2D, sheet: Sheet, plan: Plan, corners: Float32Array) {
  const [low, high] = plan.box as [Spot, Spot];
  const middle = toPixels(sheet, [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2]);
  for (const enters of [false, true]) {
    pen.beginPath();
    plan.taken.forEach((taken, row) => {
      if (taken !== enters) return;
      for (let corner = 0; corner < 4; corner++) {
        const x = middle[0] + corners[row * 8 + corner * 2]! * sheet.scale;
        const y = middle[1] - corners[row * 8 + corner * 2 + 1]! * sheet.scale;
        if (corner) pen.lineTo(x, y);
        else pen.moveTo(x, y);
      }
      pen.closePath();
    });
    pen.fillStyle = enters ? "#a2743a26" : "#00000008";
    pen.strokeStyle = enters ? `${INK}b0` : `${SOFT}66`;
    pen.lineWidth = 0.8;
    pen.fill();
    pen.stroke();
  }
}

function polygon(pen: CanvasRenderingContext2D, sheet: Sheet, ring: Spot[], loose: Spot | null) {
  if (!ring.length) return;
  const spots = [...ring, ...(loose ? [loose] : [])].map((spot) => toPixels(sheet, spot));
  pen.beginPath();
  spots.forEach(([x, y], at) => (at ? pen.lineTo(x, y) : pen.moveTo(x, y)));
  pen.closePath();
  pen.fillStyle = `${FIELD}1f`;
  pen.fill();
  pen.strokeStyle = FIELD;
  pen.lineWidth = 2;
  pen.setLineDash(loose ? [6, 4] : []);
  pen.stroke();
  pen.setLineDash([]);
  for (const [x, y] of spots.slice(0, ring.length)) {
    pen.beginPath();
    pen.arc(x, y, 5, 0, 2 * Math.PI);
    pen.fillStyle = "#fff";
    pen.fill();
    pen.stroke();
  }
}
