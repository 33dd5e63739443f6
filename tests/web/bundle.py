"""The front end's modules without a browser: bundled as for it, called by Node."""

import atexit
import functools
import json
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import IO, Any

from house.places import WEB

#: Calls `name(...arguments)` of the bundle for all cases of a line of JSON and prints the answers, or what was thrown.
_CALLER = """
import * as modules from %s;
import { createInterface } from "node:readline";
globalThis.atob ??= (text) => Buffer.from(text, "base64").toString("binary");
const revive = (key, value) => {
  if (value && value.map) return value;
  if (value && value.$set) return new Set(value.$set);
  if (value && value.$map) return new Map(value.$map);
  if (value && value.$bytes) return Uint8Array.from(Buffer.from(value.$bytes, "base64")).buffer;
  return value;
};
const plain = (key, value) => {
  if (value instanceof Map || value instanceof Set) return [...value];
  if (ArrayBuffer.isView(value)) return [...value];
  return value;
};
console.log("ready");
for await (const line of createInterface({ input: process.stdin })) {
  const [name, cases] = JSON.parse(line, revive);
  let said = [null, null];
  try {
    said[0] = cases.map((parts) => modules[name](...parts) ?? null);
  } catch (fault) {
    said = [null, String(fault.stack)];
  }
  console.log(JSON.stringify(said, plain));
}
"""
#: What the bundle offers; the last two turn three's objects into plain ones.
_ENTRY = """
export * from "%(src)s/ui/format";
export * from "%(src)s/ledger/rows";
export { newest } from "%(src)s/api/newest";
export { parse, renumbered } from "%(src)s/bench/keptHidden";
export { grow, whole } from "%(src)s/stage/cuts";
export { moved, ownOf, reach, whomSaid, withOwn } from "%(src)s/bench/exceptions/entries";
import { Pace } from "%(src)s/stage/pace";
export { readPack } from "%(src)s/stage/packs";
export { finder } from "%(src)s/ledger/pattern";
export { likeChosen } from "%(src)s/ledger/like";
export { narrowedTo, sharedBy } from "%(src)s/ledger/facets";
export { countChosen, isChosen, nodesOf, partlyChosen } from "%(src)s/ledger/chosen";
export { changed, hideChosen, showOnly } from "%(src)s/bench/bench";
import { finder } from "%(src)s/ledger/pattern";
import { touches } from "%(src)s/stage/picking/box";
export const found = (pattern, words) => words.map((word) => finder(pattern)(word.toLowerCase()));
export const touched = (triangles, seen, box) =>
  triangles.map((positions) =>
    touches({ positions, index: [0, 1, 2], first: 0, end: 3, matrix: new Matrix4() }, new Matrix4().fromArray(seen), box),
  );
export * from "%(src)s/rungs/receive/choices";
export * from "%(src)s/rungs/receive/plan/paper";
export * from "%(src)s/rungs/receive/outlines/said";
export { laid } from "%(src)s/rungs/receive/outlines/drawOutlines";
import { dressedGeometry, readPack } from "%(src)s/stage/packs";
import { Matrix4 } from "three";
import { chunk } from "%(src)s/stage/drawn";
import { layoutOf, placement } from "%(src)s/stage/layout";
import { trianglesOf, wornBy } from "%(src)s/ledger/rows";
import { makePickable } from "%(src)s/stage/picking/sorted";
export const picked = (data) => {
  const geometry = dressedGeometry(readPack(data)[0], [], 1, false);
  const before = [...geometry.index.array];
  makePickable(geometry);
  return [before, [...geometry.index.array], geometry.boundsTree !== undefined];
};
export const dressed = (data, slots, count, flipped) => {
  const geometry = dressedGeometry(readPack(data)[0], slots, count, flipped);
  return {
    index: [...geometry.index.array],
    normals: [...geometry.attributes.normal.array],
    groups: geometry.groups,
  };
};
export const placed = (structure, result, ...rest) => {
  const nothing = { placements: [], dresses: [], dress_of: [], cut_nodes: [] };
  return placement(layoutOf(structure, { ...nothing, ...result }), ...rest, new Matrix4()).elements;
};
// By a clock of its own: when, in milliseconds, and whether wholly, is drawn what is asked for; a picture takes so long.
export const paced = (light, takes, asks, until) => {
  const [pictures, queue] = [[], []];
  const { setTimeout, clearTimeout, requestAnimationFrame } = globalThis;
  const clock = performance.now;
  let now = 0;
  const later = (run, wait = 0) => queue[queue.push({ at: now + wait, run }) - 1];
  globalThis.setTimeout = later;
  globalThis.clearTimeout = (entry) => queue.includes(entry) && queue.splice(queue.indexOf(entry), 1);
  globalThis.requestAnimationFrame = (run) => later(run, 16);
  performance.now = () => now;
  const gl = {
    SIGNALED: 1, fenceSync: () => now + takes, getSyncParameter: (fence) => (now >= fence ? 1 : 0),
    deleteSync() {}, flush() {}, isContextLost: () => false,
  };
  const draw = (whole) => {
    pictures.push([now, whole]);
    pace.sent(whole);
  };
  const pace = new Pace(gl, draw, () => true, light);
  for (const [at, patient] of asks) later(() => pace.ask(patient), at);
  while (queue.length) {
    queue.sort((one, two) => one.at - two.at);
    const next = queue.shift();
    if (next.at > until) break;
    now = next.at;
    next.run();
  }
  Object.assign(globalThis, { setTimeout, clearTimeout, requestAnimationFrame });
  performance.now = clock;
  return pictures;
};
export const counted = (structure, result) =>
  [...wornBy(structure, result)].map(([part, worn]) => [part, worn.times, trianglesOf(worn, result)]);
export const baked = (data, placings) => {
  const mesh = readPack(data)[0];
  const pieces = placings.map(({ matrix, turned, flipped }, node) => ({
    ...mesh, node, part: node, matrix: new Matrix4().fromArray(matrix), turned, flipped,
  }));
  const { object, hit, box, veil } = chunk(pieces, null);
  const { position, normal } = object.geometry.attributes;
  return {
    positions: [...position.array], normals: [...normal.array], index: [...object.geometry.index.array],
    hits: [0, 3, 4, 7].map((faceIndex) => hit({ faceIndex })),
    boxes: pieces.map((_, at) => [box(at).min.toArray(), box(at).max.toArray()]),
    veil: [...veil([1], null).geometry.index.array],
  };
};
"""


@functools.cache
def _node() -> subprocess.Popen[str]:
    """Node with the bundle, for all tests of this process."""
    with tempfile.TemporaryDirectory() as folder:
        # Beside the sources, so that their packages are found.
        entry = WEB / "src" / f".entry-{Path(folder).name}.ts"
        bundle = Path(folder) / "bundle.mjs"
        try:
            entry.write_text(_ENTRY % {"src": "."})
            made = subprocess.run(
                ["node_modules/.bin/rolldown", str(entry), "--file", str(bundle), "--format", "esm", "--platform", "node"],
                cwd=WEB, capture_output=True, text=True,
            )  # fmt: skip
        finally:
            entry.unlink(missing_ok=True)
        assert made.returncode == 0, made.stderr[-2000:]
        node = subprocess.Popen(
            ["node", "--input-type=module", "-e", _CALLER % json.dumps(bundle.as_uri())],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        # It has read the bundle when it says so.
        _, told = _pipes(node)
        assert told.readline() == "ready\n"
    atexit.register(node.communicate)
    return node


def _pipes(node: subprocess.Popen[str]) -> tuple[IO[str], IO[str]]:
    assert node.stdin and node.stdout
    return node.stdin, node.stdout


class Modules(unittest.TestCase):
    def call(self, name: str, *cases: list[Any]) -> list[Any]:
        """What the function answers to each case."""
        asked, told = _pipes(_node())
        asked.write(json.dumps([name, cases]) + "\n")
        asked.flush()
        answers, fault = json.loads(told.readline())
        self.assertIsNone(fault)
        return list(answers)
