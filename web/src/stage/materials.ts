import {
  Color,
  DoubleSide,
  type Material as ThreeMaterial,
  MeshBasicMaterial,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  type Texture,
  Vector2,
} from "three";

import type { Material, Own, Slot, Worn } from "../api/client";
import type { Look } from "../bench/bench";
import { type Place, PictureShelf } from "./pictures";

/** Where three keeps the picture of a slot, and which of its numbers it takes. */
const MAPS: Partial<Record<Slot, [keyof MeshPhysicalMaterial & string, Place]>> = {
  "base colour": ["map", "colour"],
  emission: ["emissiveMap", "colour"],
  normal: ["normalMap", "vector"],
  roughness: ["roughnessMap", "g"],
  metalness: ["metalnessMap", "b"],
  occlusion: ["aoMap", "r"],
  opacity: ["alphaMap", "g"],
  transmission: ["transmissionMap", "r"],
};

/** All of a material that is seen, as text: equal for those that look the same. */
export const told = ({ id, own, apart }: Material) => `${id} ${apart} ${JSON.stringify(own)}`;

const TINT = "tint ";
/** A colour that tells something of a part, in place of what it wears. */
export const tint = (like: Material, colour: string): Material => ({
  ...like,
  id: `${TINT}${colour}`,
  colour,
  apart: colour,
});
const isTint = ({ id }: Material) => id.startsWith(TINT);

/** Three's materials for ours, by look; each made once. */
export class MaterialShelf {
  private readonly made = new Map<string, ThreeMaterial>();
  private readonly pictures = new PictureShelf();

  /** `onPicture` is called whenever a picture has come, for what wears it looks different then. */
  constructor(private readonly onPicture: () => void = () => {}) {}

  get(material: Material, look: Look, coloured = false): ThreeMaterial {
    const tinted = isTint(material);
    const kind = tinted
      ? material.id
      : look === "facing"
        ? look
        : look === "colours"
          ? `${material.id} ${material.apart}`
          : `${told(material)}${coloured ? " by vertex" : ""}`;
    // By facet: lit as every triangle lies, not as its corners say.
    const key = look === "facets" ? `${kind} by facet` : kind;
    let found = this.made.get(key);
    if (!found) {
      found = tinted
        ? flat(material)
        : look === "facing"
          ? facing()
          : look === "colours"
            ? flat(material)
            : this.shaded(material.own);
      if (look === "facets" && "flatShading" in found) found.flatShading = true;
      // What hangs on vertices is multiplied with the colour, as where it ships.
      found.vertexColors = coloured && !tinted && look !== "facing" && look !== "colours";
      this.made.set(key, found);
    }
    return found;
  }

  private shaded(own: Own): ThreeMaterial {
    const made = shaded(own);
    // Until its pictures are here a material shows its plain numbers.
    for (const [slot, worn] of Object.entries(own.maps) as [Slot, Worn][]) {
      const [name, place] = MAPS[slot] ?? [];
      if (!name || !(name in made)) continue;
      this.pictures.get(worn, place!).then(
        (texture) => {
          (made as unknown as Record<string, Texture>)[name] = texture;
          made.needsUpdate = true;
          this.onPicture();
        },
        () => console.warn(`picture ${worn.picture.slice(0, 12)} did not come`),
      );
    }
    return made;
  }
}

/** In the colour by which it is told from the others. */
const flat = (material: Material) =>
  new MeshStandardMaterial({
    color: material.apart ?? material.colour,
    roughness: 1,
    side: DoubleSide,
    toneMapped: false,
  });

/** Base colour and opacity of `#rrggbb` or `#rrggbbaa`. */
export const parted = (hex: string): [string, number] => [
  hex.slice(0, 7),
  hex.length > 7 ? parseInt(hex.slice(7), 16) / 255 : 1,
];

/** Without its pictures. */
function shaded(own: Own): MeshStandardMaterial | MeshBasicMaterial {
  const [colour, alpha] = parted(own.colour);
  const mode = own.mode ?? (alpha < 1 ? "blended" : "opaque");
  const shared = {
    color: colour,
    opacity: mode === "opaque" ? 1 : alpha,
    transparent: mode === "blended",
    depthWrite: mode !== "blended",
    alphaTest: mode === "cut-out" ? own.cutoff : 0,
    side: DoubleSide,
  };
  if (own.unlit) return new MeshBasicMaterial(shared);
  const plain = {
    ...shared,
    metalness: own.metalness,
    roughness: own.maps.roughness ? own.roughness : Math.max(own.roughness, own.least_roughness),
    emissive: new Color(own.emission),
    emissiveIntensity: own.light,
    normalScale: new Vector2(own.normal, own.normal),
    aoMapIntensity: own.occlusion,
  };
  const more =
    own.transmission > 0 ||
    own.coat > 0 ||
    own.sheen !== "#000000" ||
    own.specular < 1 ||
    own.specular_tint !== "#ffffff";
  const made = more
    ? new MeshPhysicalMaterial({
        ...plain,
        transmission: own.transmission,
        ior: Math.min(2.333, Math.max(1, own.ior)),
        thickness: own.thickness,
        attenuationColor: new Color(own.tint),
        attenuationDistance: own.tint_distance || Infinity,
        specularIntensity: own.specular,
        specularColor: new Color(own.specular_tint),
        clearcoat: own.coat,
        clearcoatRoughness: own.coat_roughness,
        sheen: own.sheen === "#000000" ? 0 : 1,
        sheenColor: new Color(own.sheen),
        sheenRoughness: own.sheen_roughness,
      })
    : new MeshStandardMaterial(plain);
  if (own.maps.roughness && own.least_roughness > 0) keepRough(made, own.least_roughness);
  return made;
}

/** No place is smoother than this, whatever the map says; as the pictures are that ship. */
function keepRough(material: MeshStandardMaterial, least: number) {
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <roughnessmap_fragment>",
      `#include <roughnessmap_fragment>\nroughnessFactor = max(roughnessFactor, ${least.toFixed(4)});`,
    );
  };
  material.customProgramCacheKey = () => `rough ${least.toFixed(4)}`;
}

/**
 * Plain where seen from outside, violet stripes where seen from behind. Along
 * an outline the far side shines through by a pixel; seen so flat it tells nothing.
 */
function facing(): ThreeMaterial {
  const material = new MeshStandardMaterial({ color: "#d8d0bf", roughness: 0.95, side: DoubleSide, toneMapped: false });
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
