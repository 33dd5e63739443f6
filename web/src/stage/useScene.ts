import { type RefObject, useEffect, useState } from "react";

interface Scene {
  resize(width: number, height: number): void;
  dispose(): void;
}

/** A 3D scene on a canvas that fills its parent, made by `Made`; `failed` where the browser gives no 3D drawing. */
export function useScene<T extends Scene>(
  canvas: RefObject<HTMLCanvasElement | null>,
  Made: new (canvas: HTMLCanvasElement) => T,
): { scene: T | null; failed: boolean } {
  const [scene, setScene] = useState<T | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let made: T;
    try {
      made = new Made(canvas.current!);
    } catch {
      // eslint-disable-next-line react-hooks/set-state-in-effect -- whether there is WebGL shows only on trying
      setFailed(true);
      return;
    }
    const watch = new ResizeObserver(([entry]) => made.resize(entry!.contentRect.width, entry!.contentRect.height));
    watch.observe(canvas.current!.parentElement!);
    setScene(made);
    return () => {
      watch.disconnect();
      made.dispose();
    };
  }, [canvas, Made]);
  return { scene, failed };
}
