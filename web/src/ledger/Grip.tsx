import { type KeyboardEvent, type PointerEvent, useRef } from "react";

const STEP = 54;

/** The upper edge of the ledger, to be pulled by pointer or arrow keys. */
export function Grip({
  height,
  least,
  most,
  onPull,
}: {
  height: number;
  least: number;
  most: () => number;
  onPull: (height: number) => void;
}) {
  const held = useRef<{ y: number; height: number } | null>(null);
  const set = (next: number) => onPull(Math.round(Math.min(most(), Math.max(least, next))));
  const press = (event: KeyboardEvent) => {
    const to = {
      ArrowUp: height + STEP,
      ArrowDown: height - STEP,
      PageUp: height + 4 * STEP,
      PageDown: height - 4 * STEP,
      Home: least,
      End: most(),
    }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    set(to);
  };
  return (
    <div
      role="separator"
      aria-orientation="horizontal"
      aria-label="Height of the ledger"
      aria-valuenow={height}
      aria-valuemin={least}
      aria-valuetext={`${height} pixels`}
      tabIndex={0}
      onKeyDown={press}
      onDoubleClick={() => set(height < most() ? most() : least)}
      onPointerDown={(event: PointerEvent) => {
        held.current = { y: event.clientY, height };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event: PointerEvent) => {
        if (held.current) set(held.current.height + held.current.y - event.clientY);
      }}
      onPointerUp={() => (held.current = null)}
      className="group absolute inset-x-0 -top-[5px] z-20 grid h-[9px] cursor-ns-resize touch-none place-content-center"
    >
      <i aria-hidden className="block h-[3px] w-10 rounded-full bg-line group-hover:bg-rope" />
    </div>
  );
}
