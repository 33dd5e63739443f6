import {
  DoubleSide,
  type Material as ThreeMaterial,
  MeshBasicMaterial,
  MeshStandardMaterial,
  RepeatWrapping,
  SRGBColorSpace,
  type Texture,
  TextureLoader,
} from "three";

import type { Material } from "../api/client";
import type { Look } from "../bench/bench";

/** Three's materials for ours, by look; each made once. */
export class MaterialShelf {
  private readonly made = new Map<string, ThreeMaterial>();
  private readonly pictures = new Map<string, Texture>();

  /** `onPicture` is called whenever a picture has come, for what wears it looks different then. */
  constructor(private readonly onPicture: () => void = () => {}) {}

  get(material: Material, look: Look): ThreeMaterial {
    const { id, colour, apart, opacity, metalness, roughness, picture } = material;
    const key =
      look === "facing"
        ? look
        : look === "colours"
          ? `${id} ${apart}`
          : [id, colour, opacity, metalness, roughness, picture].join();
    let found = this.made.get(key);
    if (!found) {
      found = look === "facing" ? facing() : look === "colours" ? flat(material) : this.shaded(material);
      this.made.set(key, found);
    }
    return found;
  }

  private shaded(material: Material): ThreeMaterial {
    const made = shaded(material);
    // Until its picture is here a material shows its plain colour.
    if (material.picture) this.wear(made, material.picture);
    return made;
  }

  private wear(material: MeshStandardMaterial, picture: string) {
    const known = this.pictures.get(picture);
    if (known) {
      material.map = known;
      return;
    }
    new TextureLoader().load(`/api/textures/${picture}`, (texture) => {
      texture.colorSpace = SRGBColorSpace;
      texture.wrapS = texture.wrapT = RepeatWrapping;
      texture.anisotropy = 4;
      this.pictures.set(picture, texture);
      material.map = texture;
      material.needsUpdate = true;
      this.onPicture();
    });
  }
}

/** In the colour by which it is told from the others. */
const flat = (material: Material) =>
  new MeshStandardMaterial({ color: material.apart ?? material.colour, roughness: 1, side: DoubleSide });

function shaded(material: Material): MeshStandardMaterial {
  const clear = material.opacity < 1;
  return new MeshStandardMaterial({
    color: material.colour,
    metalness: material.metalness,
    roughness: Math.max(0.12, material.roughness),
    opacity: material.opacity,
    transparent: clear,
    depthWrite: !clear,
    side: DoubleSide,
  });
}

/**
 * Plain where seen from outside, violet stripes where seen from behind. Along
 * an outline the far side shines through by a pixel; seen so flat it tells nothing.
 */
function facing(): ThreeMaterial {
  const material = new MeshStandardMaterial({ color: "#d8d0bf", roughness: 0.95, side: DoubleSide });
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <dithering_fragment>",
      `#include <dithering_fragment>
      if (!gl_FrontFacing && abs(dot(normalize(vViewPosition), normalize(vNormal))) > 0.35) {
        float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 14.0));
        gl_FragColor = vec4(mix(vec3(0.392, 0.275, 0.690), vec3(0.835, 0.788, 0.945), stripe), 1.0);
      }`,
    );
  };
  return material;
}

export const EDGES = new MeshBasicMaterial({ color: "#141c24", wireframe: true, transparent: true, opacity: 0.38 });
/** Drawn over everything, so that what is chosen shows through what stands before it. */
export const CHOSEN = veil(0.4);
/** The same where stripes have to be seen through it. */
export const CHOSEN_FAINT = veil(0.14);

/** One of each kind that is drawn: the card makes a program for each. */
export const kinds = (): ThreeMaterial[] => [
  new MeshStandardMaterial({ side: DoubleSide }),
  new MeshStandardMaterial({ side: DoubleSide, transparent: true, opacity: 0.5, depthWrite: false }),
  facing(),
  EDGES,
  CHOSEN,
];

function veil(opacity: number) {
  return new MeshBasicMaterial({
    color: "#c4480f",
    transparent: true,
    opacity,
    depthTest: false,
    depthWrite: false,
    side: DoubleSide,
  });
}
