import {
  Box3,
  type BufferGeometry,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  type Material as ThreeMaterial,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  PerspectiveCamera,
  Scene,
  Vector3,
  type WebGLRenderer,
  WireframeGeometry,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import type { Material, Result, Structure } from "../../api/client";
import { layoutOf, placement } from "../layout";
import { rendererOn } from "../renderer";
import { type Light, Lighting } from "../light";
import { MaterialShelf } from "../materials";
import { dressedGeometry, type PackedMesh, readPack } from "../packs";

/** What one of several pictures shows: parts, each by the mesh that it is to have there. */
export interface Shown {
  parts: { part: number; mesh?: string | null; pack?: string | null }[];
}
/** As the materials are; every facet by itself; only the outline. */
export type Look = "shaded" | "facets" | "outline";

/** Placements of one part that are drawn in each picture. */
const PLACES = 24;
/** Triangles of a picture up to which their sides are drawn. */
const SIDES = 400_000;

/** The same parts several times beside each other on one canvas, seen by one camera. */
export class BesideScene {
  private readonly renderer: WebGLRenderer;
  private readonly camera = new PerspectiveCamera(32, 1, 0.001, 1000);
  private readonly controls: OrbitControls;
  private readonly scene = new Scene();
  private readonly lighting: Lighting;
  private readonly materials = new MaterialShelf(() => this.draw());
  private readonly meshes = new Map<string, PackedMesh>();
  private readonly packs = new Map<string, Promise<void>>();
  private pictures: { key: string; group: Group }[] = [];
  private sides = true;
  private look: Look = "shaded";
  private onScale: (pixels: number) => void = () => {};
  private scaled = 0;
  private framed = false;
  private asked = 0;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = rendererOn(canvas);
    this.renderer.setScissorTest(true);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener("change", () => this.draw());
    this.lighting = new Lighting(this.renderer, this.scene);
  }

  dispose() {
    cancelAnimationFrame(this.asked);
    for (const { group } of this.pictures) clear(group);
    this.controls.dispose();
    this.renderer.dispose();
  }

  resize(width: number, height: number) {
    this.renderer.setSize(width, height, false);
    this.draw();
  }

  /** Whether the sides of triangles are drawn. */
  showSides(on: boolean) {
    this.sides = on;
    for (const { group } of this.pictures)
      group.traverse((item) => {
        if (item instanceof LineSegments) item.visible = on;
      });
    this.draw();
  }

  /** Tell how many pixels a metre is wide in the middle of each picture, whenever that changes. */
  tellScale(tell: (pixels: number) => void) {
    this.onScale = tell;
    this.scaled = 0;
    this.draw();
  }

  /** What is seen of the surfaces. */
  showLook(look: Look) {
    this.look = look;
    for (const { group } of this.pictures) this.dress(group);
    this.draw();
  }

  private dress(group: Group) {
    group.traverse((item) => {
      if (!(item instanceof Mesh)) return;
      const own = item.userData.worn as ThreeMaterial[];
      item.material = this.look === "shaded" ? own : own.map(() => (this.look === "facets" ? FACETS : OUTLINE));
    });
  }

  /** Draw these pictures, as far as they are made. */
  async show(pictures: Shown[], structure: Structure, result: Result, light: Light) {
    this.lighting.set(light);
    await Promise.all(pictures.flatMap(({ parts }) => parts.flatMap(({ pack }) => (pack ? [this.fetch(pack)] : []))));
    const old = new Map(this.pictures.map((picture) => [picture.key, picture]));
    this.pictures = pictures.map(({ parts }, at) => {
      const key = `${at} ${parts.map(({ part, mesh }) => `${part}:${mesh}`).join(" ")}`;
      const known = old.get(key);
      old.delete(key);
      return known ?? { key, group: this.build(parts, structure, result) };
    });
    for (const { group } of old.values()) clear(group);
    if (!this.framed) this.frame();
    this.draw();
  }

  private fetch(pack: string): Promise<void> {
    let coming = this.packs.get(pack);
    if (!coming) {
      coming = fetch(`/api/packs/${pack}`).then(async (answer) => {
        if (!answer.ok) throw new Error(`pack ${answer.status}`);
        for (const mesh of readPack(await answer.arrayBuffer())) this.meshes.set(mesh.key, mesh);
      });
      this.packs.set(pack, coming);
      coming.catch(() => this.packs.delete(pack));
    }
    return coming;
  }

  private build(parts: Shown["parts"], structure: Structure, result: Result): Group {
    const made = new Group();
    const layout = layoutOf(structure, result);
    const palette = new Map(result.materials.map((item) => [item.id, item]));
    let triangles = 0;
    for (const { part, mesh: key } of parts) {
      const mesh = key ? this.meshes.get(key) : undefined;
      if (!mesh) continue;
      for (const group of layout.groups.filter((item) => item.made === part)) {
        const dress = result.dresses[group.dress]!;
        const flipped = !!result.parts[part]?.flipped;
        const geometry = dressedGeometry(mesh, dress.face_slots as [number, number][], dress.materials.length, flipped);
        const worn = dress.materials.map((id) => this.worn(palette.get(id), !!mesh.colours));
        const lines = triangles < SIDES ? sidesOf(geometry) : null;
        // One part by itself is looked at once, as large as can be.
        for (const node of group.nodes.slice(0, parts.length > 1 ? PLACES : 1)) {
          const matrix = placement(layout, node, mesh.origin, [0, 0, 0], new Matrix4());
          const body = new Mesh(geometry, worn);
          body.userData.worn = worn;
          for (const item of lines ? [body, new LineSegments(lines, SIDES_LOOK)] : [body]) {
            item.matrixAutoUpdate = false;
            item.matrix.copy(matrix);
            item.visible = item === body || this.sides;
            made.add(item);
          }
          triangles += mesh.index.length / 3;
        }
      }
    }
    this.dress(made);
    return made;
  }

  private worn(material: Material | undefined, coloured: boolean): ThreeMaterial {
    return material ? this.materials.get(material, "shaded", coloured) : PLAIN;
  }

  /** Bring the first picture into view. */
  private frame() {
    const box = new Box3();
    this.pictures[0]?.group.traverse((item) => {
      if (item instanceof Mesh) {
        item.updateMatrixWorld(true);
        box.union(new Box3().setFromObject(item, true));
      }
    });
    if (box.isEmpty()) return;
    this.framed = true;
    const radius = box.getSize(new Vector3()).length() / 2 || 1;
    const middle = box.getCenter(new Vector3());
    const { columns, rows } = spread(Math.max(1, this.pictures.length));
    const aspect = this.canvas.clientWidth / columns / Math.max(1, this.canvas.clientHeight / rows);
    const away = (radius / Math.sin((this.camera.fov * Math.PI) / 360) / Math.min(1, aspect)) * 1.02;
    this.camera.near = away / 500;
    this.camera.far = away * 20;
    this.camera.position.copy(middle).addScaledVector(new Vector3(0.42, -1, 0.34).normalize(), away);
    this.controls.target.copy(middle);
    this.controls.update();
  }

  private draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.drawNow());
  }

  private drawNow() {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const count = Math.max(1, this.pictures.length);
    const { columns, rows } = spread(count);
    const [wide, tall] = [width / columns, height / rows];
    this.camera.aspect = wide / Math.max(1, tall);
    this.camera.updateProjectionMatrix();
    this.pictures.forEach(({ group }, at) => {
      const [x, y] = [(at % columns) * wide, height - (Math.floor(at / columns) + 1) * tall];
      this.renderer.setViewport(x, y, wide, tall);
      this.renderer.setScissor(x, y, wide, tall);
      this.scene.add(group);
      this.renderer.render(this.scene, this.camera);
      this.scene.remove(group);
    });
    const away = this.camera.position.distanceTo(this.controls.target);
    const scale = tall / (2 * Math.tan((this.camera.fov * Math.PI) / 360) * Math.max(away, 1e-9));
    if (Math.abs(scale - this.scaled) > 0.01 * scale) this.onScale((this.scaled = scale));
    this.canvas.dataset.drawn = String(this.pictures.filter(({ group }) => group.children.length).length);
  }
}

/** How so many pictures lie: beside each other up to two, else in two rows. */
export const spread = (count: number) => ({
  columns: count <= 2 ? count : Math.ceil(count / 2),
  rows: count <= 2 ? 1 : 2,
});

const SIDES_LOOK = new LineBasicMaterial({ color: "#b8741a", transparent: true, opacity: 0.6, depthWrite: false });
/** One colour for all, each facet lit by itself. */
const FACETS = new MeshStandardMaterial({ color: "#d8d0bf", roughness: 0.9, flatShading: true, side: DoubleSide });
/** The outline, as a black shape. */
const OUTLINE = new MeshBasicMaterial({ color: "#141c24", side: DoubleSide });
const PLAIN = new MeshBasicMaterial({ color: "#9a9488", side: DoubleSide });

const sidesOf = (geometry: BufferGeometry): BufferGeometry => new WireframeGeometry(geometry);

function clear(group: Group) {
  for (const item of group.children) if (item instanceof Mesh || item instanceof LineSegments) item.geometry.dispose();
  group.clear();
}
