import { type BufferGeometry, type Material as ThreeMaterial, Matrix4, type Mesh } from "three";

import type { Material, Result, Structure } from "../api/client";
import type { Look } from "../bench/bench";
import { chunk, dispose, drop, instances, type Piece, shift, type Shown } from "./drawn";
import { type Group, type Layout, layoutOf, onlyMoved, placement, shiftBetween } from "./layout";
import { CHOSEN, CHOSEN_FAINT, EDGES, type MaterialShelf, told } from "./materials";
import { dressedGeometry, indexBySlot, type PackedMesh } from "./packs";
import type { PackShelf } from "./shelf";

/** Few placements of few triangles go into chunks with others of their material. */
const FEW = 8;
const LIGHT = 20_000;
/** Triangles of a chunk. */
const FULL = 80_000;
/** Chunks of a material that are far from full, from which on they are joined. */
const SCRAPS = 6;

/** Bytes of fresh geometry that the graphics card is given between two pictures. */
const FRESH = 8 << 20;

/** A body that is shown, of which material or materials, and which groups it is of. */
interface Body extends Shown {
  materials: Material[];
  groups: number[];
  triangles: number;
  lines?: Mesh;
  /** The source it is of, and where that stood when the body was made. */
  member: number;
  made: { fitted: Matrix4; centre: number[] };
  mirrored: boolean;
}

/** A chunk that is not made yet. */
interface Filling {
  material: Material;
  member: number;
  pieces: Piece[];
  groups: Set<number>;
  triangles: number;
}

/** What is not to be seen: parts, and single placements by node. */
export interface Unseen {
  parts: ReadonlySet<number>;
  places: ReadonlySet<number>;
}

/** A group without placements that are hidden. */
function seenOf(group: Group, hidden: ReadonlySet<number>): Group {
  if (!hidden.size || !group.nodes.some((node) => hidden.has(node))) return group;
  const seen = [...group.nodes.keys()].filter((at) => !hidden.has(group.nodes[at]!));
  return { ...group, nodes: seen.map((at) => group.nodes[at]!), parts: seen.map((at) => group.parts[at]!) };
}

/** By part the material in whose colour it is drawn, or null for what it wears. */
export type Tints = (Material | null)[] | null;

/** What one sees of a group: another body is needed when this changes. */
type Face = string;

/**
 * Bodies for everything that is shown and has triangles. Works in steps, so that the page goes on answering: `aim`
 * says what is to be seen, `step` does some of it, `bodies` is what is there so far.
 */
export class Arranger {
  private readonly geometries = new Map<string, BufferGeometry>();
  private layout: Layout | null = null;
  private aimed: { structure: Structure; result: Result; centre: number[]; palette: Map<string, Material> } | null =
    null;
  private faces: (Face | null)[] = [];
  private owners: Set<Body>[] = [];
  private readonly live = new Set<Body>();
  /** Shown until what replaces them is there. */
  private readonly retired = new Set<Body>();
  private queue: number[] = [];
  private readonly queued = new Set<number>();
  private look: Look = "shaded";
  private hidden: Unseen = { parts: new Set(), places: new Set() };
  private veils: Mesh[] = [];
  /** For each part the colour that tells something of it, in place of what it wears. */
  private tints: Tints = null;
  /** What is compared is where things stood, with the triangles of now. */
  private earlier = false;
  /** What a person is just dragging, on top of where it stands; of one source, or of all. */
  private nudge: { member: number | null; by: Matrix4 } | null = null;
  /** Bytes of geometry that were made since the last picture. */
  private fresh = 0;
  /** Chunks being filled, by material. */
  private readonly open = new Map<string, Filling>();

  constructor(
    private readonly packs: PackShelf,
    private readonly materials: MaterialShelf,
    /** Show the triangles before the last change rather than those now. */
    private readonly before: boolean,
  ) {}

  /** Have this seen, in metres from `centre`. */
  aim(
    structure: Structure,
    result: Result,
    look: Look,
    hidden: Unseen,
    centre: number[],
    earlier = false,
    tints: Tints = null,
  ) {
    this.earlier = earlier;
    this.tints = tints;
    const layout = layoutOf(structure, result, earlier);
    const moved = !this.aimed || centre.some((value, axis) => value !== this.aimed!.centre[axis]);
    const same = this.layout && this.aimed?.structure === structure && onlyMoved(layout, this.layout);
    if (layout !== this.layout && !same) this.startAnew(layout);
    this.aimed = { structure, result, centre, palette: new Map(result.materials.map((item) => [item.id, item])) };
    if (layout !== this.layout || moved) {
      // Nothing is made again for a change of places: what stands is moved, within the same picture.
      this.layout = layout;
      this.nudge = null;
      this.place();
    }
    this.setLook(look);
    const worn = this.wornBy(result);
    layout.groups.forEach((group, number) => {
      if (this.faceOf(group, hidden, worn) !== this.faces[number]) this.change(number);
    });
    this.hidden = hidden;
  }

  /** Drag a source, or everything, without deciding it; null ends that. */
  drag(nudge: { member: number | null; by: Matrix4 } | null) {
    this.nudge = nudge;
    this.place();
  }

  /** Move every body to where its source stands now. */
  private place() {
    if (!this.layout || !this.aimed) return;
    const { centre } = this.aimed;
    for (const body of [...this.live, ...this.retired]) {
      const fitted = this.layout.fitted[body.member];
      if (!fitted) continue;
      const by = shiftBetween(body.made, { fitted, centre });
      const { nudge } = this;
      if (nudge && (nudge.member === null || nudge.member === body.member)) by.premultiply(nudge.by);
      shift(body, by, body.mirrored);
      if (body.lines) shift({ ...body, object: body.lines }, by, body.mirrored);
    }
  }

  private startAnew(layout: Layout) {
    for (const body of this.live) this.retired.add(body);
    this.live.clear();
    this.layout = layout;
    this.faces = layout.groups.map(() => null);
    this.owners = layout.groups.map(() => new Set());
    this.queue = [];
    this.queued.clear();
    this.open.clear();
  }

  private setLook(look: Look) {
    if (look === this.look) return;
    this.look = look;
    for (const body of [...this.live, ...this.retired]) this.dress(body);
  }

  /** What of a group is to be seen: the mesh, with what it wears; nothing when it is hidden or has none yet. */
  private faceOf(group: Group, hidden: Unseen, worn: string[]): Face | null {
    if (hidden.parts.has(group.parts[0]!)) return null;
    const gone = hidden.places.size ? group.nodes.filter((node) => hidden.places.has(node)) : [];
    if (gone.length === group.nodes.length) return null;
    const made = this.aimed!.result.parts[group.made]!;
    // Until the new triangles are here the old ones stand in for them.
    const present = !this.before || this.earlier;
    const key = present && made.mesh && this.packs.get(made.mesh) ? made.mesh : made.mesh_before;
    if (!key || !this.packs.get(key)) return null;
    const tinted = this.tints?.[group.made]?.id ?? "";
    return `${key}${made.flipped ? "~" : ""}|${worn[group.dress]}|${gone.join()}|${tinted}`;
  }

  /** For each dress what it looks like. */
  private wornBy(result: Result): string[] {
    const { palette } = this.aimed!;
    return result.dresses.map(
      (dress) => `${dress.materials.map((id) => told(palette.get(id)!)).join(";")}|${dress.face_slots.join(";")}`,
    );
  }

  /** A group is to be made anew, and with it what shares its bodies. */
  private change(number: number) {
    if (this.queued.has(number)) return;
    this.queued.add(number);
    this.queue.push(number);
    for (const filling of [...this.open.values()])
      if (filling.groups.has(number)) {
        this.open.delete(`${filling.material.id} ${filling.member}`);
        for (const other of filling.groups) this.change(other);
      }
    for (const body of this.owners[number]!) {
      this.live.delete(body);
      this.retired.add(body);
      for (const other of body.groups) if (other !== number) this.change(other);
    }
  }

  /** Work until then (performance.now, milliseconds); whether there is more to do. */
  step(until: number): boolean {
    if (!this.layout) return false;
    const looks = this.queue.length ? this.wornBy(this.aimed!.result) : [];
    let at = 0;
    for (; at < this.queue.length; at++) {
      if (at && (performance.now() > until || this.isFull)) break;
      const number = this.queue[at]!;
      const group = seenOf(this.layout.groups[number]!, this.hidden.places);
      this.queued.delete(number);
      this.owners[number] = new Set();
      const face = this.faceOf(group, this.hidden, looks);
      this.faces[number] = face;
      if (face === null) continue;
      const { result, palette } = this.aimed!;
      const made = result.parts[group.made]!;
      const mesh = this.packs.get(face.split(/[~|]/, 1)[0]!)!;
      const dress = result.dresses[group.dress]!;
      const slots = dress.face_slots as [number, number][];
      const tinted = this.tints?.[group.made];
      const worn = dress.materials.map((id) => tinted ?? palette.get(id)!);
      const triangles = mesh.index.length / 3;
      if (group.nodes.length > FEW || triangles * group.nodes.length > LIGHT) {
        this.add(this.instanced(number, group, mesh, slots, worn, made.flipped));
        continue;
      }
      for (const { slot, index } of indexBySlot(mesh, slots, worn.length)) {
        const material = worn[slot]!;
        const open = `${material.id} ${group.member}`;
        let into = this.open.get(open);
        if (!into)
          this.open.set(open, (into = { material, member: group.member, pieces: [], groups: new Set(), triangles: 0 }));
        into.groups.add(number);
        into.triangles += (index.length / 3) * group.nodes.length;
        group.nodes.forEach((node, k) =>
          into.pieces.push({
            node,
            part: group.parts[k]!,
            positions: mesh.positions,
            normals: mesh.normals,
            uv: mesh.uv,
            uv1: mesh.uv1,
            colours: mesh.colours,
            index,
            matrix: placement(this.layout!, node, mesh.origin, this.aimed!.centre, new Matrix4()),
            turned: group.mirrored !== made.flipped,
            flipped: made.flipped,
          }),
        );
        if (into.triangles > FULL) this.close(into);
      }
    }
    this.queue.splice(0, at);
    if (!this.queue.length)
      for (const filling of [...this.open.values()]) {
        this.close(filling);
        if (performance.now() > until || this.isFull) break;
      }
    if (!this.queue.length && !this.open.size) {
      for (const body of this.retired) dispose(body);
      this.retired.clear();
      this.sweep();
      this.join();
    }
    return this.queue.length > 0 || this.open.size > 0;
  }

  private close(filling: Filling) {
    const { material, member, pieces, groups, triangles } = filling;
    this.open.delete(`${material.id} ${member}`);
    const made = chunk(pieces, this.materials.get(material, this.look));
    this.add({ ...made, materials: [material], groups: [...groups], triangles, ...this.standing(member, false) });
  }

  /** Where a source stands while a body of it is made. */
  private standing(member: number, mirrored: boolean) {
    const made = { fitted: this.layout!.fitted[member]!, centre: this.aimed!.centre };
    return { member, mirrored, made };
  }

  /** Whether a picture is to be drawn before there is more. */
  get isFull() {
    return this.fresh > FRESH;
  }

  /** What was made was drawn. */
  drawn() {
    this.fresh = 0;
  }

  private add(body: Body) {
    const { attributes, index } = body.object.geometry;
    this.fresh += (attributes.position?.array.byteLength ?? 0) * 2 + (index?.array.byteLength ?? 0);
    this.live.add(body);
    for (const number of body.groups) this.owners[number]!.add(body);
    this.dress(body);
  }

  private instanced(
    number: number,
    group: Group,
    mesh: PackedMesh,
    slots: [number, number][],
    worn: Material[],
    flipped: boolean,
  ): Body {
    const shape = `${mesh.key}${flipped ? "~" : ""}:${slots.join(";")}`;
    let geometry = this.geometries.get(shape);
    if (!geometry) this.geometries.set(shape, (geometry = dressedGeometry(mesh, slots, worn.length, flipped)));
    const matrices = group.nodes.map((node) =>
      placement(this.layout!, node, mesh.origin, this.aimed!.centre, new Matrix4()),
    );
    const worns = worn.map((item) => this.materials.get(item, this.look));
    const triangles = (mesh.index.length / 3) * group.nodes.length;
    return {
      ...instances(geometry, worns, group, matrices),
      materials: worn,
      groups: [number],
      triangles,
      ...this.standing(group.member, group.mirrored),
    };
  }

  /** Give a body the materials of the look, and lines over its edges where the look has them. */
  private dress(body: Body) {
    const coloured = "color" in body.object.geometry.attributes;
    const worn = body.materials.map((item) => this.materials.get(item, this.look, coloured));
    const many = Array.isArray(body.object.material);
    body.object.material = many ? worn : worn[0]!;
    body.object.userData = { shown: body };
    if (this.look !== "edges") {
      if (body.lines) drop(body.lines);
      body.lines = undefined;
    } else if (!body.lines) {
      const all = body.nodes.map((_, at) => at);
      body.lines = body.veil(all, EDGES);
      body.lines.raycast = () => {};
    }
  }

  /** Geometries that no body shows any more. */
  private sweep() {
    const used = new Set([...this.live].map((body) => body.object.geometry));
    for (const [shape, geometry] of this.geometries)
      if (!used.has(geometry)) {
        geometry.dispose();
        this.geometries.delete(shape);
      }
  }

  /** Chunks that stayed small, because their meshes came in one by one, are made anew together. */
  private join() {
    const scraps = new Map<string, Body[]>();
    for (const body of this.live)
      if (!Array.isArray(body.object.material) && body.triangles < FULL / 3) {
        const id = `${body.materials[0]!.id} ${body.member}`;
        scraps.set(id, [...(scraps.get(id) ?? []), body]);
      }
    for (const bodies of scraps.values())
      if (bodies.length > SCRAPS) for (const body of bodies) for (const number of body.groups) this.change(number);
  }

  /** What there is to draw now. */
  bodies(): Mesh[] {
    return [...this.live, ...this.retired].flatMap((body) => (body.lines ? [body.object, body.lines] : [body.object]));
  }

  /** A veil over what is chosen, so that choosing much is as quick as choosing little. */
  veil(chosen: ReadonlySet<number>, places: ReadonlySet<number> | null): Mesh[] {
    this.veils.forEach(drop);
    this.veils = [];
    if (!chosen.size) return [];
    const over: ThreeMaterial = this.look === "facing" ? CHOSEN_FAINT : CHOSEN;
    this.veils = [...this.live].flatMap((body) => {
      const mine = body.parts.flatMap((part, at) =>
        chosen.has(part) && (!places || places.has(body.nodes[at]!)) ? [at] : [],
      );
      if (!mine.length) return [];
      const veil = body.veil(mine, over);
      veil.raycast = () => {};
      veil.renderOrder = 2;
      return [veil];
    });
    return this.veils;
  }

  dispose() {
    for (const body of [...this.live, ...this.retired]) dispose(body);
    for (const geometry of this.geometries.values()) geometry.dispose();
    this.live.clear();
    this.retired.clear();
    this.geometries.clear();
  }
}
