import { Button } from "../../../ui/controls";
import { fitting, type Sheet, zoomed } from "./paper";

/** Buttons for whoever has no wheel: larger, smaller, all of it. */
export function Nearer({
  box,
  onSheet,
}: {
  box: number[][] | undefined;
  onSheet: (change: (now: Sheet | null) => Sheet | null) => void;
}) {
  const by = (factor: number) => onSheet((now) => now && zoomed(now, factor, [now.width / 2, now.height / 2]));
  return (
    <span className="ml-auto flex gap-1.5">
      <Button aria-label="Larger" onClick={() => by(1.5)}>
        +
      </Button>
      <Button aria-label="Smaller" onClick={() => by(1 / 1.5)}>
        −
      </Button>
      <Button disabled={!box} onClick={() => onSheet((now) => now && fitting(box!, now.width, now.height))}>
        All
      </Button>
    </span>
  );
}
