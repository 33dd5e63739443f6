import type { Result, Structure } from "../api/client";
import { partAt } from "../stage/cuts";

const NONE: ReadonlySet<number> = new Set();

export type Facet = "source" | "layer" | "material" | "class" | "storey" | "state" | "size" | "triangles";
export const FACETS: Facet[] = ["state", "material", "layer", "class", "storey", "source", "size", "triangles"];
/** Upper ends of ranges: of the longest side in metres, and of triangles of one placement; each with what it is called. */
const RANGES: Record<"size" | "triangles", [number, string][]> = {
  size: [
    [0.005, "under 5 mm"],
    [0.02, "5 to 20 mm"],
    [0.1, "20 to 100 mm"],
    [0.5, "100 to 500 mm"],
    [2, "0.5 to 2 m"],
    [10, "2 to 10 m"],
    [Infinity, "10 m and more"],
  ],
  triangles: [
    [100, "under 100"],
    [1e3, "100 to 1,000"],
    [1e4, "1,000 to 10,000"],
    [1e5, "10,000 to 100,000"],
    [1e6, "100,000 to a million"],
    [Infinity, "a million and more"],
  ],
};

/** Something that parts have in common: which parts, and how many of their placements that entered. */
export interface Shared {
  value: string;
  label: string;
  parts: ReadonlySet<number>;
  placements: number;
}
/** What the ledger is narrowed to: of each kind any of these, of several kinds all. */
export type Narrowing = ReadonlyMap<Facet, ReadonlySet<string>>;

interface Gathering {
  label: string;
  parts: Set<number>;
  placements: number;
}

/** Every value of a kind with the parts that have it at any of their places, the most placements first. */
export function sharedBy(
  facet: Facet,
  structure: Structure,
  result: Result,
  hidden: ReadonlySet<number>,
  locked: ReadonlySet<number> = NONE,
): Shared[] {
  const found = new Map<string, Gathering>();
  const note = (value: string, label: string, part: number, placements = 1) => {
    let known = found.get(value);
    if (!known) found.set(value, (known = { label, parts: new Set(), placements: 0 }));
    known.parts.add(part);
    known.placements += placements;
  };
  if (facet === "state") {
    const times = (part: number) => structure.parts[part]?.times ?? 0;
    const all = (value: string, parts: Iterable<number>) => {
      for (const part of parts) if (part < structure.parts.length) note(value, value, part, times(part));
    };
    const entered = new Set(result.placements.map((node) => structure.node_parts[node]!));
    all("loose end", result.loose_parts);
    all("open", result.open_parts);
    all("inside out", result.inside_out);
    all("hidden", hidden);
    all("locked", locked);
    all(
      "left out",
      [...structure.parts.keys()].filter((part) => structure.parts[part]!.surface && !entered.has(part)),
    );
    all("unnamed", result.unnamed);
  } else if (facet === "size" || facet === "triangles") {
    const partOf = partAt(structure, result);
    for (const node of result.placements) {
      const made = result.parts[partOf(node)];
      const measure = facet === "size" ? made?.sides[0] : made?.triangles;
      const range = measure == null ? undefined : RANGES[facet].find(([end]) => measure < end);
      const label = range ? range[1] : facet === "size" ? "no size" : "not meshed yet";
      note(label, label, structure.node_parts[node]!);
    }
    const order = [...RANGES[facet].map(([, label]) => label), "no size", "not meshed yet"];
    return [...found]
      .map(([value, told]) => ({ value, ...told }))
      .sort((one, two) => order.indexOf(one.value) - order.indexOf(two.value));
  } else {
    const names = new Map(result.materials.map((item) => [item.id, item.name]));
    const { members } = structure;
    let member = 0;
    result.placements.forEach((node, at) => {
      const part = structure.node_parts[node]!;
      if (facet === "material") {
        for (const id of new Set(result.dresses[result.dress_of[at]!]!.materials)) note(id, names.get(id) ?? id, part);
        return;
      }
      if (facet === "source") {
        while (members[member + 1] && node >= members[member + 1]!.first_node) member++;
        if (member && node < members[member]!.first_node) member = 0;
        note(members[member]!.ref, members[member]!.name, part);
        return;
      }
      const tags = structure.tags[structure.node_tags[node]!];
      const value =
        facet === "layer" ? result.layers[result.layer_of[at]!] : facet === "class" ? tags?.ifc_class : tags?.storey;
      note(value ?? "", value ?? `no ${facet}`, part);
    });
  }
  return [...found].map(([value, told]) => ({ value, ...told })).sort((one, two) => two.placements - one.placements);
}

/** The parts that are left when the ledger is narrowed; none where it is not. */
export function narrowedTo(
  narrowing: Narrowing,
  structure: Structure,
  result: Result,
  hidden: ReadonlySet<number>,
  locked: ReadonlySet<number> = NONE,
): Set<number> | null {
  let left: Set<number> | null = null;
  for (const [facet, values] of narrowing) {
    const some = new Set<number>();
    for (const shared of sharedBy(facet, structure, result, hidden, locked))
      if (values.has(shared.value)) for (const part of shared.parts) if (!left || left.has(part)) some.add(part);
    left = some;
  }
  return left;
}
