import {
  BackSide,
  BoxGeometry,
  Color,
  DirectionalLight,
  HemisphereLight,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  PMREMGenerator,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  type Texture,
  type WebGLRenderer,
} from "three";
import { IS_LIGHT } from "../ui/address";

export const LIGHTS = ["overcast", "side", "studio"] as const;
export type LightKind = (typeof LIGHTS)[number];

/** The light on the stage: what kind, how bright in stops, and how far it is turned about the up axis, in degrees. */
export interface Light {
  kind: LightKind;
  stops: number;
  turn: number;
  /** Whether it comes from where the sun of a source stands, where one has any. */
  sun?: boolean;
}

export const PLAIN_LIGHT: Light = { kind: "studio", stops: 0, turn: 0 };

/** The lamp and the ambient light that go with each kind of surroundings; directions have Z up. */
const LAMPS: Record<LightKind, { lamp: number; colour: string; from: [number, number, number]; around: number }> = {
  overcast: { lamp: 0.35, colour: "#eef4ff", from: [-1, -2, 9], around: 1 },
  side: { lamp: 2.6, colour: "#fff0d8", from: [-8, -2.5, 3], around: 0.55 },
  studio: { lamp: 1.6, colour: "#fff4e2", from: [-3, -5, 7], around: 0.8 },
};

/** Lights a scene by surroundings made here, of plain shapes. */
export class Lighting {
  readonly lamp = new DirectionalLight();
  readonly sky: HemisphereLight;
  private readonly made = new Map<LightKind, Texture>();

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly scene: Scene,
    private readonly reflections = !IS_LIGHT,
  ) {
    this.sky = new HemisphereLight("#ffffff", "#cdbfa4", reflections ? 0.35 : 1.5);
    scene.add(this.sky, this.lamp);
    this.set(PLAIN_LIGHT);
  }

  /** `sun` is the way that the sunlight of a source goes, Z up. */
  set({ kind, stops, turn, sun: wanted }: Light, sun: number[] | null = null) {
    const { lamp, colour, from, around } = LAMPS[kind];
    const angle = (turn * Math.PI) / 180;
    const bright = 2 ** stops;
    this.lamp.color.set(colour);
    this.lamp.intensity = lamp * bright;
    this.lamp.position.set(...from).applyAxisAngle(this.scene.up.clone().set(0, 0, 1), angle);
    if (wanted && sun) this.lamp.position.fromArray(sun).multiplyScalar(-9);
    this.sky.intensity = (this.reflections ? 0.25 : 1.5) * bright;
    if (!this.reflections) return;
    this.scene.environment = this.surroundings(kind);
    this.scene.environmentIntensity = around * bright;
    this.scene.environmentRotation.set(0, 0, angle);
  }

  private surroundings(kind: LightKind): Texture {
    let found = this.made.get(kind);
    if (!found) {
      const maker = new PMREMGenerator(this.renderer);
      const room = kind === "overcast" ? overcast() : kind === "side" ? side() : studio();
      // To soften the edges of the lamps too is two fifths of the work.
      found = maker.fromScene(room, IS_LIGHT ? 0 : 0.03).texture;
      maker.dispose();
      room.traverse((child) => {
        if (child instanceof Mesh) child.geometry.dispose();
      });
      this.made.set(kind, found);
    }
    return found;
  }
}

/** An even sky: by the CIE's overcast sky three times as bright overhead as at the horizon (CIE S 011, 2003). */
function overcast(): Scene {
  const sky = new ShaderMaterial({
    side: BackSide,
    vertexShader:
      "varying vec3 way; void main() { way = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader: `varying vec3 way;
      void main() {
        float up = normalize(way).z;
        vec3 sky = vec3(0.93, 0.97, 1.0) * 1.15 * (1.0 + 2.0 * max(up, 0.0)) / 3.0 * 1.6;
        gl_FragColor = vec4(up > 0.0 ? sky : mix(sky, vec3(0.34, 0.32, 0.29), min(1.0, -up * 6.0)), 1.0);
      }`,
  });
  return new Scene().add(new Mesh(new SphereGeometry(10, 32, 20), sky));
}

/** A dim room with one large window at its left. */
function side(): Scene {
  return room("#2c2a28", [[[-7, -1, 2.4], [5, 4.4], "#fff3df", 9]]);
}

/** A pale room with a key light, a fill and a strip behind. */
function studio(): Scene {
  return room("#8d8880", [
    [[-5, -4.5, 5.5], [4, 4], "#fff6ea", 7],
    [[6, -3, 3], [3, 4], "#eaf1ff", 2.6],
    [[0.5, 6.5, 4.5], [7, 1.2], "#ffffff", 5],
  ]);
}

type Panel = [place: [number, number, number], size: [number, number], colour: string, bright: number];

/** A box of a room with panels that face its middle; Z is up. */
function room(wall: string, panels: Panel[]): Scene {
  const scene = new Scene();
  const floor = new Mesh(new BoxGeometry(18, 18, 12), new MeshBasicMaterial({ color: wall, side: BackSide }));
  floor.position.z = 3;
  scene.add(floor);
  for (const [place, size, colour, bright] of panels) {
    const panel = new Mesh(
      new PlaneGeometry(...size),
      new MeshBasicMaterial({ color: new Color(colour).multiplyScalar(bright) }),
    );
    panel.position.set(...place);
    panel.up.set(0, 0, 1);
    panel.lookAt(0, 0, 0.5);
    scene.add(panel);
  }
  return scene;
}
