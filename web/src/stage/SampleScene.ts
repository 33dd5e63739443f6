import {
  Color,
  Group,
  Mesh,
  MeshBasicMaterial,
  PerspectiveCamera,
  PlaneGeometry,
  Scene,
  SphereGeometry,
  type WebGLRenderer,
} from "three";

import type { Material } from "../api/client";
import { type Light, Lighting } from "./light";
import { rendererOn } from "./renderer";
import { MaterialShelf } from "./materials";

/** A material on a ball and on a tile of real size, in the light of the stage. */
export class SampleScene {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(24, 1, 0.1, 50);
  private readonly lighting: Lighting;
  private readonly shelf = new MaterialShelf(() => this.draw());
  private readonly ball: Mesh;
  private readonly tile: Mesh;
  private asked = 0;

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = rendererOn(canvas);
    // With reflections on weak graphics too: without them nobody sees what a metal is.
    this.lighting = new Lighting(this.renderer, this.scene, true);
    // three's ball has its poles on Y; here Z is up.
    const ball = new SphereGeometry(1, 96, 64).rotateX(Math.PI / 2);
    this.ball = new Mesh(ball, new MeshBasicMaterial());
    this.ball.position.set(-1.12, 0, 1);
    this.tile = new Mesh(new PlaneGeometry(2, 2), new MeshBasicMaterial());
    this.tile.position.set(1.16, 0.25, 1);
    this.tile.rotation.set(Math.PI / 2 - 0.16, 0, 0);
    this.scene.add(this.ball, this.tile, ground());
    this.camera.up.set(0, 0, 1);
    this.camera.position.set(0, -8.2, 2.4);
    this.camera.lookAt(0, 0, 0.98);
  }

  dispose() {
    cancelAnimationFrame(this.asked);
    this.renderer.dispose();
  }

  resize(width: number, height: number) {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / Math.max(1, height);
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** `tile` is how long a picture lies on what wears the material, in metres; the tile here is a metre wide. */
  show(material: Material, tile: number, light: Light) {
    this.lighting.set(light);
    this.ball.material = this.tile.material = this.shelf.get(material, "shaded");
    // UV of a metre: so many pictures beside each other.
    lay(this.tile, 1 / (tile || 1));
    lay(this.ball, 2, 1);
    this.draw();
  }

  private draw() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.renderer.render(this.scene, this.camera));
  }
}

/** Have UV run so often across. */
function lay(mesh: Mesh, across: number, along = across) {
  const uv = mesh.geometry.getAttribute("uv");
  const kept = (mesh.userData.uv ??= uv.array.slice()) as Float32Array;
  for (let at = 0; at < uv.count; at++) uv.setXY(at, kept[2 * at]! * across, kept[2 * at + 1]! * along);
  uv.needsUpdate = true;
}

/** Stripes behind and below, so that what lets light through is seen to. */
function ground(): Group {
  const group = new Group();
  const floor = new Mesh(new PlaneGeometry(12, 8), new MeshBasicMaterial({ color: new Color("#d9cfbb") }));
  floor.position.set(0, 1, -0.01);
  group.add(floor);
  for (let k = -9; k <= 9; k++) {
    const stripe = new Mesh(new PlaneGeometry(0.16, 3.4), new MeshBasicMaterial({ color: new Color("#b9ab8d") }));
    stripe.position.set(k * 0.42, 1.9, 1.3);
    stripe.rotation.set(Math.PI / 2, 0, 0);
    group.add(stripe);
  }
  return group;
}
