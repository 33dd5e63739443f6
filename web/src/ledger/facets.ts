import type { Result, Structure } from "../api/client";

export type Facet = "source" | "layer" | "material" | "class" | "storey" | "state";
export const FACETS: Facet[] = ["state", "material", "layer", "class", "storey", "source"];

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
export function sharedBy(facet: Facet, structure: Structure, result: Result, hidden: ReadonlySet<number>): Shared[] {
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
    all(
      "left out",
      [...structure.parts.keys()].filter((part) => structure.parts[part]!.surface && !entered.has(part)),
    );
    all("unnamed", result.unnamed);
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
): Set<number> | null {
  let left: Set<number> | null = null;
  for (const [facet, values] of narrowing) {
    const some = new Set<number>();
    for (const shared of sharedBy(facet, structure, result, hidden))
      if (values.has(shared.value)) for (const part of shared.parts) if (!left || left.has(part)) some.add(part);
    left = some;
  }
  return left;
}
