import type { Result } from "../api/client";
import type { Tint } from "../bench/bench";
import { count, metric } from "../ui/format";
import type { Tints } from "./arrange";
import { tint } from "./materials";

/** From little to much, and what has nothing to tell. */
const RAMP = ["#efe3c4", "#d8bf86", "#b79758", "#7d8c78", "#3d7280", "#1c3c55"];
const NOTHING = "#cfc9bd";
/** Near and fine, between, far and coarse, nothing to be fine. */
const NEAR = ["#1c3c55", "#3d7280", "#d8bf86", "#cfc9bd"];

/** One colour of a key, and what it stands for. */
export interface Step {
  colour: string;
  said: string;
}

/** What each part is coloured by, and the key to it. */
export function tinted(what: Tint, result: Result): { parts: Tints; key: Step[] } {
  const like = result.palette[0];
  if (what === "none" || !like) return { parts: null, key: [] };
  const colours = new Map([...RAMP, ...NEAR, NOTHING].map((colour) => [colour, tint(like, colour)]));
  const of = (colour: string) => colours.get(colour)!;
  if (what === "view") {
    // By how many times the finest of all they are: whatever the job's own setting is, which may hold for none.
    const least = Math.min(...result.parts.flatMap(({ chord }) => (chord > 0 ? [chord] : [])));
    const [near, middle] = [2.01 * least, 8.04 * least];
    const said = [
      `near: chord error to ${metric(2 * least)}`,
      `middle: to ${metric(8 * least)}`,
      "far: coarser than that",
      "no facets to decide",
    ];
    return {
      parts: result.parts.map(({ chord }) => of(NEAR[!chord ? 3 : chord <= near ? 0 : chord <= middle ? 1 : 2]!)),
      key: Number.isFinite(least) ? said.map((words, at) => ({ colour: NEAR[at]!, said: words })) : [],
    };
  }
  const values = result.parts.map((part) => valueOf(what, part));
  const known = values.filter((value) => value > 0);
  if (!known.length)
    return { parts: result.parts.map(() => of(NOTHING)), key: [{ colour: NOTHING, said: "nothing yet" }] };
  const [low, high] = [Math.min(...known), Math.max(...known) * 1.0001];
  const step = Math.log(high / low) / RAMP.length || 1;
  const said = (value: number) =>
    what === "density"
      ? `${value < 10 ? Number(value.toPrecision(2)) : count(Math.round(value))} per m²`
      : metric(value);
  return {
    parts: values.map((value) =>
      of(value > 0 ? RAMP[Math.min(RAMP.length - 1, Math.floor(Math.log(value / low) / step))]! : NOTHING),
    ),
    key: [
      ...RAMP.map((colour, at) => ({ colour, said: `from ${said(low * Math.exp(step * at))}` })),
      { colour: NOTHING, said: what === "off" ? "nothing off" : "no triangles" },
    ],
  };
}

function valueOf(what: Tint, part: Result["parts"][number]): number {
  const { triangles, area, off_by } = part;
  if (what === "off") return off_by ?? 0;
  if (!triangles || !area) return 0;
  // The side of a square of two triangles.
  return what === "density" ? triangles / area : Math.sqrt((2 * area) / triangles);
}
