import type { Decisions, Outlines } from "../../../api/client";

export type Drawn = Decisions["receive"]["drawn"];
export type Row = Drawn["rows"][number];
export type Footing = NonNullable<Row["on"]>;
export type By = Row["by"];
export type Said = Partial<Omit<Row, "by" | "match" | "source">>;

export interface Named {
  by: By;
  match: string;
  source: string | null;
}

export const namedOf = (shape: Outlines["shapes"][number]): Named => ({
  by: "part",
  match: shape.ref,
  source: shape.source,
});

const SAYS = ["height", "on", "wall", "side", "stroke", "areas", "hand"] as const;

const speaksOf = (row: Row, named: Named) =>
  row.by === named.by && row.match === named.match && (row.source ?? null) === named.source;

/** What the rows say of exactly this: of a layer, of a shape; not what follows from rows about more. */
export function saidOf(rows: readonly Row[], named: Named): Said {
  const told: Record<string, unknown> = {};
  for (const row of rows) if (speaksOf(row, named)) for (const key of SAYS) if (row[key] != null) told[key] = row[key];
  return told as Said;
}

/** The rows after something more is said of it; null takes a word back. A row that says nothing goes. */
export function say(rows: readonly Row[], named: Named, change: Said): Row[] {
  const said = { ...saidOf(rows, named), ...change };
  const others = rows.filter((row) => !speaksOf(row, named));
  const { by, match, source } = named;
  return SAYS.some((key) => said[key] != null) ? [...others, { by, match, source, ...said }] : others;
}
