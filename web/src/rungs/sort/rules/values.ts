import type { Rule, Structure } from "../../../api/client";

export type By = Rule["by"];

export const BY: { value: By; label: string }[] = [
  { value: "layer", label: "layer" },
  { value: "colour", label: "colour" },
  { value: "name", label: "name like" },
  { value: "part", label: "part" },
  { value: "class", label: "class" },
  { value: "storey", label: "storey" },
  { value: "substance", label: "substance" },
  { value: "style", label: "style" },
];

export interface Choice {
  value: string;
  label: string;
  swatch?: string;
}

/** What a rule of this kind can be made to match, where the sources name it; null where anything can be typed. */
export function choicesOf(by: By, structure: Structure | undefined): Choice[] | null {
  if (by === "name" || !structure) return null;
  if (by === "part")
    return structure.parts.filter((part) => part.surface).map(({ ref, label }) => ({ value: ref, label }));
  if (by === "colour") return structure.colours.map((value) => ({ value, label: value, swatch: value.slice(0, 7) }));
  const { tags } = structure;
  const named: Partial<Record<By, (string | null)[]>> = {
    layer: structure.layers,
    style: structure.styles,
    class: tags.map((item) => item.ifc_class),
    storey: tags.map((item) => item.storey),
    substance: tags.flatMap((item) => item.materials),
  };
  const words = [...new Set(named[by])].filter((word): word is string => !!word);
  return words.map((value) => ({ value, label: value }));
}

/** Where a rule can be made to hold: everywhere, in a source, on a storey, or below a group of the source's tree. */
export function placesOf(structure: Structure | undefined): Choice[] {
  const found: Choice[] = [{ value: "", label: "everywhere" }];
  if (!structure) return found;
  if (structure.members.length > 1)
    for (const { ref, name } of structure.members) found.push({ value: `source:${ref}`, label: `source ${name}` });
  for (const storey of new Set(structure.tags.map((item) => item.storey)))
    if (storey) found.push({ value: `storey:${storey}`, label: `storey ${storey}` });
  const groups = new Set<string>();
  structure.node_parts.forEach((part, node) => {
    if (part < 0 && structure.node_names[node]) groups.add(structure.node_names[node]!);
  });
  for (const name of [...groups].slice(0, 500)) found.push({ value: `group:${name}`, label: `group ${name}` });
  return found;
}

export const placeOf = ({ within }: Rule): string =>
  !within
    ? ""
    : within.source
      ? `source:${within.source}`
      : within.storey
        ? `storey:${within.storey}`
        : `group:${within.group}`;

export function withPlace(rule: Rule, place: string): Rule {
  if (!place) return { ...rule, within: null };
  const at = place.indexOf(":");
  return { ...rule, within: { [place.slice(0, at)]: place.slice(at + 1) } };
}
