import {
  Box3,
  BufferGeometry,
  Float32BufferAttribute,
  Frustum,
  Group,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  type Object3D,
  PerspectiveCamera,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  Vector4,
  type WebGLRenderer,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { acceleratedRaycast } from "three-mesh-bvh";
import type { Views } from "../api/client";
import { IS_LIGHT } from "../ui/address";
import type { Shown } from "./drawn";
import { Eye } from "./eye";
import type { Sight } from "./picking/snap";
import { type Light, Lighting } from "./light";
import { Lines } from "./lines";
import { EDGES, kinds } from "./materials";
import { lookFrom, seenBy } from "./lookout";
import { Pace } from "./pace";
import { type Box, lies, touches } from "./picking/box";
import { type Hit, nearestHit } from "./picking/ray";
import { rendererOn } from "./renderer";
import { figure, gridStep, YARDSTICK } from "./yardstick";

Mesh.prototype.raycast = acceleratedRaycast;

/** What the stage's own camera sees from bottom to top, in degrees. */
const FIELD = 32;

/** The 3D view without React: draws only when something changed. Metres, Z up, the model's middle at 0. */
export class StageScene {
  readonly renderer: WebGLRenderer;
  readonly camera = new PerspectiveCamera(FIELD, 1, 0.01, 1000);
  readonly controls: OrbitControls;
  private readonly scene = new Scene();
  private readonly now = new Group();
  private readonly before = new Group();
  private readonly veil = new Group();
  private readonly ground = new Group();
  private box = new Box3(new Vector3(-1, -1, -1), new Vector3(1, 1, 1));
  private split: number | null = null;
  private readonly pace: Pace;
  private readonly eye: Eye;
  private readonly lighting: Lighting;
  private readonly yardstickTop = new Vector3();
  private readonly watchers = new Set<() => void>();
  private yardstick = YARDSTICK;
  private readonly edges = new Lines("#1d2730", 0.55);
  private readonly flawed = new Lines("#c4480f", 0.95);
  onDrawn: (yardstick: { x: number; y: number } | null) => void = () => {};

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = rendererOn(canvas);
    this.renderer.debug.checkShaderErrors = import.meta.env.DEV;
    this.pace = new Pace(
      this.renderer.getContext() as WebGL2RenderingContext,
      (whole) => this.drawNow(whole),
      () => [...this.now.children, ...this.before.children].some(isLines),
      IS_LIGHT,
    );
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.eye = new Eye(this.camera, this.controls);
    this.controls.addEventListener("change", () => this.draw());
    this.scene.add(this.ground, this.before, this.now, this.veil, this.edges.object, this.flawed.object);
    this.lighting = new Lighting(this.renderer, this.scene);
    this.prepare();
  }

  /** Have the card's programs made before the first mesh comes, beside the page rather than in its time. */
  private prepare() {
    const geometry = new BufferGeometry().setAttribute("position", new Float32BufferAttribute([0, 0, 0], 3));
    geometry.setAttribute("normal", new Float32BufferAttribute([0, 0, 1], 3));
    const samples = new Group().add(
      ...kinds().flatMap((material) => [new Mesh(geometry, material), new InstancedMesh(geometry, material, 1)]),
    );
    for (const sample of samples.children) sample.frustumCulled = false;
    const { renderer, scene } = this;
    void renderer.compileAsync(samples, this.camera, scene).then(() => {
      // What the card is asked once, at the first picture with a body in it, is asked now.
      scene.add(samples);
      this.drawNow(true);
      scene.remove(samples);
    }, console.warn);
  }

  dispose() {
    this.pace.stop();
    this.controls.dispose();
    this.renderer.dispose();
  }

  resize(width: number, height: number) {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / Math.max(1, height);
    this.draw();
  }

  show(what: "now" | "before" | "veil", meshes: Mesh[]) {
    const group = this[what];
    const wanted = new Set<Object3D>(meshes);
    group.remove(...group.children.filter((child) => !wanted.has(child)));
    for (const mesh of meshes) if (mesh.parent !== group) group.add(mesh);
    this.pace.ask(true);
  }

  /** Share of the width left of which the earlier triangles show; null shows only the present ones. */
  compare(split: number | null) {
    this.split = split;
    this.draw();
  }

  /** Lay the ground and stand a yardstick so tall beside a model of this size, its middle there (metres). */
  setSize(size: number[], middle: number[], tall: number) {
    this.yardstick = tall;
    const half = new Vector3(size[0]! / 2, size[1]! / 2, size[2]! / 2);
    const centre = new Vector3().fromArray(middle);
    this.box = new Box3(half.clone().negate(), half.clone()).translate(centre);
    this.ground.position.copy(centre);
    const reach = Math.max(half.x, half.y, half.z, 1e-4);
    const step = gridStep(size);
    const lines = 7;
    const points: number[] = [];
    for (let i = -lines; i <= lines; i++) {
      points.push(i * step, -lines * step, 0, i * step, lines * step, 0);
      points.push(-lines * step, i * step, 0, lines * step, i * step, 0);
    }
    this.ground.clear();
    const grid = new LineSegments(
      new BufferGeometry().setAttribute("position", new Float32BufferAttribute(points, 3)),
      new LineBasicMaterial({ color: "#d3c7b0" }),
    );
    grid.position.z = -half.z - reach * 0.002;
    const person = figure(this.yardstick);
    const model = Math.max(size[0]!, size[1]!, size[2]!);
    // In front of what is large, towards the right; of what is no larger than people it would hide all, and stands beside.
    if (model > 3 * this.yardstick) person.position.set(half.x * 0.6, -half.y - 0.6 - reach * 0.06, -half.z);
    else person.position.set(half.x + 0.5, 0, -half.z);
    this.yardstickTop
      .copy(person.position)
      .setZ(this.yardstick - half.z)
      .add(centre);
    person.visible = model > 0.085 * this.yardstick && model < 230 * this.yardstick;
    this.ground.add(grid, person);
    this.draw();
  }

  /** Bring the chosen parts into view, or everything. */
  frame(chosen: ReadonlySet<number>, asItLooks = false, places: ReadonlySet<number> | null = null) {
    const box = new Box3();
    if (chosen.size)
      for (const { parts, nodes, box: boxOf } of this.shown()) {
        parts.forEach((part, at) => {
          if (chosen.has(part) && (!places || places.has(nodes[at]!))) box.union(boxOf(at));
        });
      }
    if (box.isEmpty()) {
      box.copy(this.box);
      // Beside what is small a person would take all the room.
      const person = this.ground.children[1];
      if (person?.visible && Math.max(...box.getSize(new Vector3()).toArray()) > this.yardstick / 2) {
        const feet = person.position.clone().add(this.ground.position);
        box.expandByPoint(feet);
        if (feet.x > box.max.x - 0.1) box.expandByPoint(feet.add(new Vector3(0.4, 0, this.yardstick)));
      }
    }
    const centre = box.getCenter(new Vector3());
    const from = this.camera.position.lengthSq()
      ? this.camera.position.clone().sub(this.controls.target)
      : new Vector3();
    if ((!chosen.size && !asItLooks) || from.lengthSq() < 1e-12) from.set(0.42, -1, 0.34);
    const away = this.eye.distance(box, centre, from.normalize()) * (chosen.size ? 1.35 : 1.12);
    this.camera.position.copy(centre).addScaledVector(from, away);
    this.controls.target.copy(centre);
    this.controls.update();
    this.draw();
  }

  /** Look at everything along a direction: from the front, a side, or above. */
  lookFrom(x: number, y: number, z: number) {
    this.camera.fov = FIELD;
    this.camera.position.copy(this.controls.target).add(new Vector3(x, y, z));
    this.frame(new Set(), true);
  }

  /** Look as a camera of a source does; `centre` is the point that everything is drawn around. Lengths in metres. */
  lookOut(from: Views["LookoutView"], centre: number[]) {
    lookFrom(this.camera, this.controls.target, from, centre, this.box);
    this.controls.update();
    this.camera.up.set(0, 0, 1);
    this.draw();
  }

  /** Go around what is looked at, in radians; never over the top. */
  turn(across: number, up: number) {
    this.eye.turn(across, up);
    this.draw();
  }

  /** Shift what is looked at, by shares of the stage's height. */
  shift(right: number, up: number) {
    this.eye.shift(right, up);
    this.draw();
  }

  /** Come nearer, to this share of the distance; farther above 1. */
  approach(share: number) {
    this.eye.approach(share);
    this.draw();
  }

  /** What light falls on the model. */
  setLight(light: Light, sun: number[] | null = null) {
    this.lighting.set(light, sun);
    this.draw();
  }

  /** Parallel lines stay parallel, as on a drawing; what is farther off is not smaller. */
  setParallel(on: boolean) {
    this.eye.isParallel = on;
    this.draw();
  }

  /** What is under a point of the canvas, in pixels from its upper left: node, place and what stands off the surface. */
  hit(x: number, y: number): Hit | null {
    const size = this.renderer.getSize(new Vector2());
    const ray = new Raycaster();
    const [across, up] = [(x / size.x) * 2 - 1, 1 - (y / size.y) * 2];
    const camera = this.lens;
    ray.setFromCamera(new Vector2(across, up), camera);
    if (this.eye.isParallel) {
      const near = new Vector3(across, up, -1).unproject(camera);
      ray.set(near, camera.getWorldDirection(new Vector3()));
    }
    ray.firstHitOnly = true;
    this.scene.updateMatrixWorld();
    return nearestHit(ray, this.shown());
  }

  /** The placements, by node, of which anything touches a box on the stage, whatever lies before it. */
  touching(box: Box): number[] {
    const { view: seen } = this.eyes;
    this.scene.updateMatrixWorld();
    const found: number[] = [];
    for (const { nodes, box: boxOf, corners: cornersOf } of this.shown())
      nodes.forEach((node, at) => {
        const around = boxOf(at);
        const corners = Array.from({ length: 8 }, (_, k) =>
          new Vector4(
            k & 1 ? around.max.x : around.min.x,
            k & 2 ? around.max.y : around.min.y,
            k & 4 ? around.max.z : around.min.z,
            1,
          ).applyMatrix4(seen),
        );
        const how = lies(corners, box);
        if (how === "inside" || (how === "across" && touches(cornersOf(at), seen, box))) found.push(node);
      });
    return [...new Set(found)];
  }

  /** Parts of which something may be in the picture, so many at the most; nothing where all are. */
  inView(most: number): number[] {
    const seen = new Frustum().setFromProjectionMatrix(this.eyes.view);
    const [found, others] = [new Set<number>(), new Set<number>()];
    for (const { parts, box } of this.shown())
      parts.forEach((part, at) => {
        if (!found.has(part)) (seen.intersectsBox(box(at)) ? found : others).add(part);
      });
    const some = [...found];
    return some.length <= most && [...others].some((part) => !found.has(part)) ? some : [];
  }

  /** From metres around the middle of the model to the screen. */
  get eyes(): Sight {
    const camera = this.lens;
    const size = this.renderer.getSize(new Vector2());
    const view = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    return { view, width: size.x, height: size.y, eye: camera.position.clone() };
  }

  /** How far before the camera something is, along the way it looks. */
  depth(at: Vector3): number {
    return at.clone().sub(this.camera.position).dot(this.camera.getWorldDirection(new Vector3()));
  }

  /** What the camera sees, to be kept; `centre` is the point that everything is drawn around. */
  seen(centre: number[]): Views["Seen"] {
    return seenBy(this.camera, this.controls.target, centre, this.eye.isParallel);
  }

  /** Show edges that can be picked, as pairs of points in metres around the middle; none to show none. */
  outline(points: Float32Array | null) {
    this.edges.set(points);
    this.draw();
  }

  /** Show where flaws lie, the same way. */
  flaws(points: Float32Array | null) {
    this.flawed.set(points);
    this.draw();
  }

  /** Have this called after every picture. */
  watch(tell: () => void): () => void {
    this.watchers.add(tell);
    return () => void this.watchers.delete(tell);
  }

  /** The bodies that are there now, without lines and veils. */
  private shown(): Shown[] {
    return this.now.children.flatMap((child) => (child.userData.shown as Shown | undefined) ?? []);
  }

  /** Whether something at this spot, in metres from the middle of the model, is in view, and how far off it is. */
  sight(): (x: number, y: number, z: number) => { seen: boolean; away: number } {
    const camera = this.lens;
    const whole = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    const frustum = new Frustum().setFromProjectionMatrix(whole);
    const spot = new Vector3();
    return (x, y, z) => {
      spot.set(x, y, z);
      return { seen: frustum.containsPoint(spot), away: spot.distanceTo(camera.position) };
    };
  }

  /** Everything as the first view has it, small. */
  picture(width: number, height: number): Promise<ImageBitmap> {
    const { camera, controls, split } = this;
    const kept = { position: camera.position.clone(), target: controls.target.clone(), aspect: camera.aspect };
    const own = this.renderer.domElement;
    // The middle of the stage, as wide to its height as the picture is.
    const wide = Math.min(own.width, (own.height * width) / height);
    const tall = (wide * height) / width;
    this.split = null;
    const veil = this.veil.children.splice(0);
    this.ground.visible = false;
    camera.aspect = own.width / own.height;
    this.frame(new Set());
    camera.position
      .sub(controls.target)
      .multiplyScalar((own.width / wide) * 0.92)
      .add(controls.target);
    // Nobody is told of it: what lies over the stage stays where it is.
    this.render(true);
    const [left, top] = [(own.width - wide) / 2, (own.height - tall) / 2];
    const drawn = createImageBitmap(own, left, top, wide, tall, { resizeWidth: width, resizeHeight: height });
    this.ground.visible = true;
    this.veil.children.push(...veil);
    this.split = split;
    camera.position.copy(kept.position);
    camera.aspect = kept.aspect;
    controls.target.copy(kept.target);
    controls.update();
    this.draw();
    return drawn;
  }

  /** Draw soon, once, however often it is asked. */
  draw() {
    this.pace.ask();
  }

  /** Calls back when the graphics card has nothing to do. */
  whenCalm(tell: () => void) {
    this.pace.whenCalm(tell);
  }

  /** The camera as it stands now, whether or not a picture was drawn since it was moved or the stage was resized. */
  private get lens(): PerspectiveCamera {
    this.eye.setDepths(this.box);
    this.camera.updateMatrixWorld();
    return this.camera;
  }

  private render(whole: boolean) {
    EDGES.visible = whole;
    this.eye.setDepths(this.box);
    const size = this.renderer.getSize(new Vector2());
    const render = (left: number, width: number, before: boolean) => {
      this.before.visible = before;
      this.now.visible = this.veil.visible = !before;
      this.renderer.setScissor(left, 0, width, size.y);
      this.renderer.render(this.scene, this.camera);
    };
    this.renderer.setScissorTest(this.split !== null);
    if (this.split === null) render(0, size.x, false);
    else {
      const at = Math.round(this.split * size.x);
      render(0, at, true);
      render(at, size.x - at, false);
    }
    // Others draw with the same.
    EDGES.visible = true;
    this.pace.sent(whole);
  }

  /** With the lines over edges, unless those are to wait. */
  private drawNow(whole: boolean) {
    this.render(whole);
    const size = this.renderer.getSize(new Vector2());
    const tip = this.yardstickTop.clone().project(this.camera);
    const seen = this.ground.children[1]?.visible && tip.z < 1;
    for (const tell of this.watchers) tell();
    this.onDrawn(seen ? { x: ((tip.x + 1) / 2) * size.x, y: ((1 - tip.y) / 2) * size.y } : null);
    const from = this.camera.position.clone().sub(this.controls.target).normalize();
    this.renderer.domElement.dataset.from = from
      .toArray()
      .map((value) => (Math.round(value * 100) / 100 || 0).toFixed(2))
      .join(" ");
    // By these whoever tests the stage knows where on it something is to be seen.
    this.renderer.domElement.dataset.view = this.eyes.view.elements.map((value) => value.toPrecision(9)).join(" ");
    this.renderer.domElement.dataset.calls = String(this.renderer.info.render.calls);
    this.renderer.domElement.dataset.triangles = String(this.renderer.info.render.triangles);
  }
}

/** Whether it is lines over the edges of a body. */
const isLines = (child: Object3D) => [(child as Mesh).material].flat()[0] === EDGES;
