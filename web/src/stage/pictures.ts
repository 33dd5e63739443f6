import { Matrix3, NoColorSpace, RepeatWrapping, SRGBColorSpace, type Texture, TextureLoader } from "three";

import type { Worn } from "../api/client";

/** Which number of a picture three takes for what. */
export type Place = "colour" | "vector" | "r" | "g" | "b";
/** From UV that lie from the lower left to those that lie from the upper left, and back. */
const OVER = new Matrix3().set(1, 0, 0, 0, -1, 1, 0, 0, 1);

/** Loads pictures of surfaces, each once, and hands out textures that lie as their maps say. */
export class PictureShelf {
  private readonly loading = new Map<string, Promise<Texture>>();

  /** The texture of a map, for a place in a material. */
  async get(worn: Worn, place: Place): Promise<Texture> {
    const url = address(worn, place);
    let coming = this.loading.get(url);
    if (!coming) {
      coming = new TextureLoader().loadAsync(url);
      this.loading.set(url, coming);
    }
    const texture = (await coming).clone();
    texture.colorSpace = place === "colour" ? SRGBColorSpace : NoColorSpace;
    texture.wrapS = texture.wrapT = RepeatWrapping;
    texture.anisotropy = 4;
    texture.channel = worn.uv;
    texture.matrixAutoUpdate = false;
    texture.matrix.copy(laid(worn));
    return texture;
  }
}

/** A number that does not stand where three looks for it comes as grey, which stands everywhere. */
function address({ picture, channel, inverted }: Worn, place: Place): string {
  const plain = place === "colour" || place === "vector" || (channel === place && !inverted);
  return plain ? `/api/textures/${picture}` : `/api/textures/${picture}/grey?channel=${channel}&inverted=${inverted}`;
}

/** How UV from the lower left are moved: scaled, turned and moved as KHR_texture_transform has it, from the upper left. */
function laid({ offset, scale, turn }: Worn): Matrix3 {
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const [u, v] = scale as [number, number];
  const moved = new Matrix3().set(cos * u, sin * v, offset[0]!, -sin * u, cos * v, offset[1]!, 0, 0, 1);
  return OVER.clone().multiply(moved).multiply(OVER);
}
