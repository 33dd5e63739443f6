import { useEffect, useRef } from "react";

import type { Material } from "../../../api/client";
import { keptLight } from "../../../stage/LightMenu";
import { SampleScene } from "../../../stage/SampleScene";
import { useScene } from "../../../stage/useScene";

/** A ball and a tile of a metre in this material. */
export function Sample({ material, tile }: { material: Material; tile: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { scene, failed } = useScene(canvas, SampleScene);
  useEffect(() => scene?.show(material, tile, keptLight()), [scene, material, tile]);
  return (
    <div className="stage-ground relative h-64 overflow-hidden rounded-md border border-line">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${material.name} on a ball and on a tile of one metre`}
        className="absolute inset-0 size-full"
      />
      {failed ? (
        <p className="absolute inset-0 m-auto h-fit w-fit text-ink-soft">This browser gives no 3D drawing.</p>
      ) : (
        <span className="absolute right-2 bottom-1.5 rounded-[5px] border border-line bg-paper/90 px-2 text-[12px]">
          tile 1 m
        </span>
      )}
    </div>
  );
}
