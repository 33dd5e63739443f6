import { round } from "../../../ui/format";
import { scaleBar, type Sheet } from "./paper";

const INK = "#1d2730";

/** A pen on an empty canvas of the sheet's size, in its pixels; null where the browser gives none. */
export function freshPen(canvas: HTMLCanvasElement, sheet: Sheet): CanvasRenderingContext2D | null {
  const ratio = Math.min(2, devicePixelRatio);
  canvas.width = Math.round(sheet.width * ratio);
  canvas.height = Math.round(sheet.height * ratio);
  const pen = canvas.getContext("2d");
  pen?.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen?.clearRect(0, 0, sheet.width, sheet.height);
  return pen;
}

/** A round length in the lower left corner. */
export function bar(pen: CanvasRenderingContext2D, sheet: Sheet) {
  const length = scaleBar(sheet, 160);
  const [x, y, wide] = [16, sheet.height - 16, length * sheet.scale];
  pen.setLineDash([]);
  pen.strokeStyle = INK;
  pen.lineWidth = 1.5;
  pen.beginPath();
  pen.moveTo(x, y - 5);
  pen.lineTo(x, y);
  pen.lineTo(x + wide, y);
  pen.lineTo(x + wide, y - 5);
  pen.stroke();
  pen.fillStyle = INK;
  pen.font = "12px sans-serif";
  pen.fillText(round(length), x + 5, y - 6);
}
