import { WebGLRenderer } from "three";
import { IS_LIGHT } from "../ui/address";

/** What draws on a canvas: smooth and as fine as the screen where the graphics are up to it. */
export function rendererOn(canvas: HTMLCanvasElement): WebGLRenderer {
  const renderer = new WebGLRenderer({ canvas, alpha: true, antialias: !IS_LIGHT });
  renderer.setPixelRatio(Math.min(IS_LIGHT ? 1 : 2, devicePixelRatio));
  return renderer;
}
