import { Matrix4 } from "three";

import type { Result, Structure } from "../api/client";
import { type Grown, partAt } from "./cuts";

/** Placements that share triangles, dress and handedness. */
export interface Group {
  /** The result's part: another than the structure's where a polygon cut it. */
  made: number;
  dress: number;
  mirrored: boolean;
  nodes: number[];
  /** The structure's part at each node. */
  parts: number[];
  /** The source they are of, by its number. */
  member: number;
}

/** Where everything stands: the same for as long as the decisions are, however many meshes arrive. */
export interface Layout {
  groups: Group[];
  /** Column-major, 16 to a node: its coordinates to metres, Z up, in double precision. */
  worlds: Float64Array;
  /** Of each source: its coordinates to metres, Z up. */
  fitted: Matrix4[];
}

const layouts = new WeakMap<readonly number[], Layout>();
const earlier = new WeakMap<readonly number[], Layout>();
const decoded = new WeakMap<Structure, Float64Array>();

/** The placements' matrices in their sources, decoded once. */
function worldsOf(structure: Structure): Float64Array {
  let found = decoded.get(structure);
  if (!found) {
    const raw = atob(structure.world);
    const bytes = new Uint8Array(raw.length);
    for (let at = 0; at < raw.length; at++) bytes[at] = raw.charCodeAt(at);
    found = new Float64Array(bytes.buffer);
    const { added } = structure as Partial<Grown>;
    if (added?.length) {
      const own = found;
      found = new Float64Array(own.length + 16 * added.length);
      found.set(own);
      added.forEach(({ world }, at) => found!.set(world, own.length + 16 * at));
    }
    decoded.set(structure, found);
  }
  return found;
}

/**
 * The layout of a result; results that differ only in the meshes that are there share one. `before`: where everything
 * stood before the last change at Fit.
 */
export function layoutOf(structure: Structure, result: Result, before = false): Layout {
  const kept = before ? earlier : layouts;
  const known = kept.get(result.placements);
  if (known) return known;
  const own = worldsOf(structure);
  const worlds = new Float64Array(own.length);
  const [whole, world] = [new Matrix4(), new Matrix4()];
  const places = result.sources.map((source) =>
    new Matrix4().fromArray((before ? source.before : null) ?? source.matrix),
  );
  const memberOf = new Uint32Array(structure.node_parts.length);
  structure.members.forEach((piece, number) => {
    const fitted = places[number]!;
    memberOf.fill(number, piece.first_node, piece.first_node + piece.nodes);
    for (let node = piece.first_node; node < piece.first_node + piece.nodes; node++)
      whole.multiplyMatrices(fitted, world.fromArray(own, node * 16)).toArray(worlds, node * 16);
  });
  const behind = structure.node_parts.length - ((structure as Partial<Grown>).added?.length ?? 0);
  (structure as Partial<Grown>).added?.forEach(({ member }, at) => {
    const node = behind + at;
    memberOf[node] = member;
    whole.multiplyMatrices(places[member]!, world.fromArray(own, node * 16)).toArray(worlds, node * 16);
  });
  const groups = new Map<number, Group>();
  const partOf = partAt(structure, result);
  const dresses = result.dresses.length;
  result.placements.forEach((node, at) => {
    const made = partOf(node);
    const dress = result.dress_of[at]!;
    const mirrored = isMirrored(worlds, node * 16);
    const key = (made * dresses + dress) * 2 + (mirrored ? 1 : 0);
    let group = groups.get(key);
    if (!group) groups.set(key, (group = { made, dress, mirrored, nodes: [], parts: [], member: memberOf[node]! }));
    group.nodes.push(node);
    group.parts.push(structure.node_parts[node]!);
  });
  const layout = { groups: [...groups.values()], worlds, fitted: places };
  kept.set(result.placements, layout);
  return layout;
}

/** Whether the matrix that begins here turns left into right. */
const isMirrored = (m: Float64Array, at: number): boolean =>
  m[at]! * (m[at + 5]! * m[at + 10]! - m[at + 6]! * m[at + 9]!) -
    m[at + 1]! * (m[at + 4]! * m[at + 10]! - m[at + 6]! * m[at + 8]!) +
    m[at + 2]! * (m[at + 4]! * m[at + 9]! - m[at + 5]! * m[at + 8]!) <
  0;

/**
 * Where a mesh around `origin` stands, in metres from the middle of the model.
 * Worked out in double precision; only the sum goes to the graphics card.
 */
export function placement(layout: Layout, node: number, origin: number[], centre: number[], into: Matrix4): Matrix4 {
  const m = layout.worlds;
  const at = node * 16;
  const [x, y, z] = origin as [number, number, number];
  into.fromArray(m, at);
  const e = into.elements;
  for (let row = 0; row < 3; row++)
    e[12 + row] = m[at + row]! * x + m[at + 4 + row]! * y + m[at + 8 + row]! * z + m[at + 12 + row]! - centre[row]!;
  return into;
}

/** Whether two layouts have the same things in the same groups, so that only places differ; mirrors aside. */
export function onlyMoved(one: Layout, two: Layout): boolean {
  return (
    one.groups.length === two.groups.length &&
    one.groups.every((group, at) => {
      const other = two.groups[at]!;
      return (
        group.made === other.made &&
        group.dress === other.dress &&
        group.member === other.member &&
        group.nodes.length === other.nodes.length &&
        group.nodes.every((node, k) => node === other.nodes[k])
      );
    })
  );
}

/**
 * What brings something that was made under one place of its source, around one centre, to where it belongs under
 * another, in double precision.
 */
export function shiftBetween(
  from: { fitted: Matrix4; centre: number[] },
  to: { fitted: Matrix4; centre: number[] },
): Matrix4 {
  const [x, y, z] = from.centre as [number, number, number];
  const [u, v, w] = to.centre as [number, number, number];
  return new Matrix4()
    .makeTranslation(-u, -v, -w)
    .multiply(to.fitted)
    .multiply(from.fitted.clone().invert())
    .multiply(new Matrix4().makeTranslation(x, y, z));
}
