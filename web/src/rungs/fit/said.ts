import type { Views } from "../../api/client";
import { box, imperial, metric } from "../../ui/format";

type Note = Views["NoteView"];

/** A measurement's figure: metric and imperial, or degrees. */
export function figure({ note, value, box: sides }: Note): string {
  if (note.kind === "angle") return `${value.toFixed(2)}°`;
  if (sides) return box(sides);
  return `${note.kind === "radius" ? "R " : ""}${metric(value)} · ${imperial(value)}`;
}

/** The figure, and by how much it is off where it should be another. */
export function noted(item: Note): string {
  if (item.off == null) return figure(item);
  const off = item.note.kind === "angle" ? `${Math.abs(item.off).toFixed(2)}°` : metric(Math.abs(item.off));
  return `${figure(item)} · ${item.agrees ? "as drawn" : `${item.off > 0 ? "too large by" : "too small by"} ${off}`}`;
}
