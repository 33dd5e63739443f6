"""`python -m bench.ledger`: how long the ledger takes to its first rows at 100,000 of them, for any filter, search or order.

The front end's own modules, bundled as for the browser and called by Node, on an invented job; what the browser does
besides, drawing some thirty rows, does not hang on how many there are.
"""

import subprocess
import tempfile
from pathlib import Path

from house.places import WEB

ALLOWED = 100.0

_ENTRY = """
import { narrowedTo, sharedBy, FACETS } from "./ledger/facets";
import { tableRows, treeRows, wornBy } from "./ledger/rows";
import { sourceTree, renamedParts } from "./ledger/trees";
import { countChosen, partlyChosen, partsOf } from "./ledger/chosen";
import { likeChosen, LIKE } from "./ledger/like";
import { COLUMNS, sorted } from "./ledger/columns";

const COUNT = 100_000;
const parts = Array.from({ length: COUNT }, (_, k) => ({
  ref: `Part ${k}`, label: `Part ${k}`, name: `Part ${k}`, layer: `Layer ${k % 60}`, surface: true, times: 1,
}));
const structure = {
  parts, node_parts: [-1, ...parts.keys()], node_parents: [-1, ...parts.map(() => 0)],
  node_names: ["Root", ...parts.map((part) => part.label)],
  node_tags: [0, ...parts.map((_, k) => k % 180)],
  tags: Array.from({ length: 180 }, (_, k) => ({ kind: "body", ifc_class: `IfcThing${k % 9}`, storey: `Level ${k % 20}` })),
  members: [{ ref: "site", name: "site.step", first_node: 0, nodes: COUNT + 1 }],
};
const materials = Array.from({ length: 40 }, (_, k) => ({ id: `m${k}`, name: `Material ${k}`, colour: "#808080" }));
const result = {
  placements: parts.map((_, k) => k + 1), dress_of: parts.map((_, k) => k % 40), materials,
  dresses: materials.map(({ id }) => ({ materials: [id], rules: [0], face_slots: [], why: "rule 1", loose: false })),
  layers: Array.from({ length: 60 }, (_, k) => `Layer ${k}`), layer_of: parts.map((_, k) => k % 60),
  parts: parts.map((_, k) => ({ sides: [k / 1000, 0.1, 0.1], triangles: k % 5000, mesh: `k${k % 5000}` })),
  cut_nodes: [], base_parts: COUNT, loose_parts: [], open_parts: [], inside_out: [], unnamed: [], names: null,
};
const none = new Set();
const names = new Map(materials.map((item) => [item.id, item.name]));
const job = { decisions: { mend: { joined: [] } } };
const worn = wornBy(structure, result);
const tree = sourceTree(structure, result);
const renamed = renamedParts(structure, result);
const chosen = new Set([7, 70]);
const cell = (row) => ({ part: parts[row.part], made: result.parts[row.part], worn: worn.get(row.part), result, tree: false, job });
const all = tableRows(structure, worn, names, "", renamed);
const cases = [
  ...FACETS.map((facet) => [`what there is of ${facet}`, () => sharedBy(facet, structure, result, none)]),
  ...FACETS.filter((facet) => facet !== "state").map((facet) => {
    const { value } = sharedBy(facet, structure, result, none)[0];
    const narrowing = new Map([[facet, new Set([value])]]);
    return [`narrowed by ${facet}`, () => {
      const left = narrowedTo(narrowing, structure, result, none);
      return tableRows(structure, worn, names, "", renamed).filter((row) => left.has(row.part));
    }];
  }),
  ["a word in the table", () => tableRows(structure, worn, names, "level 7", renamed)],
  ["a pattern in the table", () => tableRows(structure, worn, names, "part ?7*", renamed)],
  ["a word in the tree", () => treeRows(tree, new Set([0]), "part 77", null)],
  ["a pattern in the tree", () => treeRows(tree, new Set([0]), "*77*", null)],
  ["the tree opened", () => treeRows(tree, new Set([0]), "", null)],
  ...LIKE.map(({ value }) => [`like these by ${value}`, () => likeChosen({ chosen, hidden: none }, structure, result, value)]),
  ["all chosen", () => countChosen(tree, partsOf(all, tree, false))],
  ["single ones chosen", () => partlyChosen(structure.node_parts, new Set([1, 2]))],
  ...["triangles", "layer"].map((id) => {
    const column = COLUMNS.find((one) => one.id === id);
    return [`in order of ${id}`, () => sorted(all, { by: id, down: true }, (row) => column.sort(cell(row)))];
  }),
];
for (const [name, work] of cases) {
  const times = [];
  for (let turn = 0; turn < 5; turn++) {
    const began = performance.now();
    work();
    times.push(performance.now() - began);
  }
  console.log(`${Math.min(...times).toFixed(1)} ${times[0].toFixed(1)} ${name}`);
}
"""


def main() -> None:
    """A line for each: the best of five turns, and the first, in milliseconds."""
    with tempfile.TemporaryDirectory() as folder:
        entry, bundle = WEB / "src" / ".entry-ledger.tsx", Path(folder) / "bundle.mjs"
        try:
            entry.write_text(_ENTRY)
            made = ["npx", "rolldown", str(entry), "--file", str(bundle), "--format", "esm", "--platform", "node"]
            subprocess.run(made, cwd=WEB, check=True, capture_output=True)
        finally:
            entry.unlink(missing_ok=True)
        told = subprocess.run(["node", str(bundle)], check=True, capture_output=True, text=True).stdout
    for line in told.splitlines():
        best, first, name = line.split(" ", 2)
        print(
            f"{'ok  ' if float(best) <= ALLOWED else 'OVER'} {name}: {best} ms (at most {ALLOWED:g}), at first {first} ms"
        )


if __name__ == "__main__":
    main()
