import { Slider } from "radix-ui";
import { useEffect, useState } from "react";

/** A slider on an even scale with what it stands at beside it. `onMove` while it moves, `onSet` when it is let go. */
export function Slide({
  label,
  value,
  least,
  most,
  step,
  show,
  className = "grid-cols-[84px_1fr_52px]",
  onMove,
  onSet,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  step: number;
  show: (value: number) => string;
  className?: string;
  onMove?: (value: number) => void;
  onSet?: (value: number) => void;
}) {
  const [held, setHeld] = useState<number | null>(null);
  useEffect(() => {
    if (held === null) return;
    const settle = setTimeout(() => setHeld(null), 1500);
    return () => clearTimeout(settle);
  }, [held, value]);
  const shown = held ?? value;
  return (
    <div className={`grid items-center gap-2.5 ${className}`}>
      <span className="text-[13.5px]">{label}</span>
      <Slider.Root
        min={least}
        max={most}
        step={step}
        value={[shown]}
        onValueChange={([next]) => {
          setHeld(next!);
          onMove?.(next!);
        }}
        onValueCommit={([next]) => onSet?.(next!)}
        className="relative flex h-5 touch-none items-center"
      >
        <Slider.Track className="relative h-1 grow rounded bg-line">
          <Slider.Range className="absolute h-full rounded bg-ink-soft" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          aria-valuetext={show(shown)}
          className="block size-4 rounded-full border-2 border-ink bg-white"
        />
      </Slider.Root>
      <span className="text-right text-[13px] whitespace-nowrap">{show(shown)}</span>
    </div>
  );
}
