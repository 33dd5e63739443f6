import { useMemo } from "react";

import type { Structure, Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { thingsOf } from "../../../bench/menu/things";
import { Select } from "../../../ui/controls";
import { plural } from "../../../ui/format";
import { type By, choicesOf } from "../rules/values";

export type Whom = Views["Whom"];
const KINDS = [
  { value: "all", label: "everything" },
  { value: "chosen", label: "what is chosen" },
  { value: "layer", label: "a layer" },
  { value: "material", label: "a material" },
  { value: "class", label: "a class" },
  { value: "storey", label: "a storey" },
  { value: "source", label: "a source" },
  { value: "group", label: "a group" },
  { value: "name", label: "names like" },
];

function listed(by: string, structure: Structure | undefined): { value: string; label: string }[] {
  if (!structure) return [];
  if (by === "source") return structure.members.map(({ ref, name }) => ({ value: ref, label: name }));
  if (by === "group") {
    const names = structure.node_names.filter((name, node) => structure.node_parts[node]! < 0 && name);
    return [...new Set(names)].slice(0, 1000).map((value) => ({ value, label: value }));
  }
  return choicesOf(by as By, structure) ?? [];
}

/** Whom a step is for: everything, what is chosen, or what has something. */
export function WhomField({ whom, onChange }: { whom: Whom; onChange: (whom: Whom) => void }) {
  const bench = useBench();
  const { structure, result, view } = bench;
  const by = whom.by ?? "all";
  const match = whom.match ?? [];
  const choices = useMemo(
    () =>
      by === "material"
        ? (result?.materials.map((item) => ({ value: item.id, label: item.name, swatch: item.colour })) ?? [])
        : listed(by, structure),
    [by, structure, result],
  );
  const single = by === "part" || by === "placement";
  const kinds = KINDS.filter(
    ({ value }) =>
      ["all", "name", "material"].includes(value) ||
      (value === "chosen" ? view.chosen.size > 0 || single : listed(value, structure).length > 0),
  );
  const pick = (kind: string) => {
    if (kind === "all") onChange({ by: "all", match: [] });
    else if (kind === "chosen") void thingsOf(bench).then(onChange);
    else if (kind === "name") onChange({ by: "name", match: ["*"] });
    else {
      const first = kind === "material" ? result?.materials[0]?.id : listed(kind, structure)[0]?.value;
      if (first) onChange({ by: kind as Whom["by"], match: [first] });
    }
  };
  return (
    <span className="flex min-w-0 items-center gap-1.5">
      <Select label="Of whom" value={single ? "chosen" : by} options={kinds} onChange={pick} />
      {single && <span className="text-ink-soft">{plural(match.length, by)}</span>}
      {by === "name" && (
        <input
          aria-label="Names like"
          value={match[0] ?? ""}
          onChange={(event) => onChange({ by, match: [event.target.value || "*"] })}
          className="min-w-0 flex-1 rounded-md border border-field bg-white px-2 py-1"
        />
      )}
      {!["all", "part", "placement", "name"].includes(by) && (
        <Select
          label="Which"
          className="min-w-0 flex-1"
          value={match[0] ?? ""}
          options={choices}
          onChange={(word) => onChange({ by, match: [word] })}
        />
      )}
    </span>
  );
}
