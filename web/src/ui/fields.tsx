import { Slider as RadixSlider } from "radix-ui";
import { useEffect, useState } from "react";

import { metric, readLength } from "./format";

/** A slider on a logarithmic scale with a field beside it that takes the same value as text. */
export function LogField({
  label,
  value,
  least,
  most,
  show,
  read,
  onMove,
  onSet,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  show: (value: number) => string;
  read: (text: string) => number | null;
  onMove: (value: number) => void;
  onSet: (value: number) => void;
}) {
  const [held, setHeld] = useState<number | null>(null);
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  useEffect(() => {
    if (held === null) return;
    const settle = setTimeout(() => setHeld(null), 1500);
    return () => clearTimeout(settle);
  }, [held, value]);
  const shown = held ?? value;
  const position = (Math.log(shown / least) / Math.log(most / least)) * 100;
  const round = (raw: number) => Number(raw.toPrecision(2));
  const enter = () => {
    if (text === null) return;
    const found = read(text);
    const good = found !== null && found >= least * 0.999 && found <= most * 1.001;
    setWrong(!good);
    if (good) {
      setText(null);
      if (Math.abs(found - value) > value * 1e-9) onSet(found);
    }
  };
  return (
    <div className="grid grid-cols-[84px_1fr_84px] items-center gap-2.5">
      <span className="text-[13.5px]">{label}</span>
      <RadixSlider.Root
        min={0}
        max={100}
        step={1}
        value={[Math.min(100, Math.max(0, position))]}
        onValueChange={([next = 0]) => {
          const moved = round(least * (most / least) ** (next / 100));
          setHeld(moved);
          setText(null);
          onMove(moved);
        }}
        className="relative flex h-5 touch-none items-center"
      >
        <RadixSlider.Track className="relative h-0.5 grow bg-line">
          <RadixSlider.Range className="absolute h-full bg-ink" />
        </RadixSlider.Track>
        <RadixSlider.Thumb
          aria-label={label}
          aria-valuetext={show(shown)}
          className="block size-4 rounded-full bg-ink"
        />
      </RadixSlider.Root>
      <input
        aria-label={`${label}, typed`}
        aria-invalid={wrong}
        value={text ?? show(shown)}
        onChange={(event) => setText(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={enter}
        onKeyDown={(event) => event.key === "Enter" && enter()}
        className={`w-full rounded-md border bg-white px-1.5 py-0.5 text-right ${wrong ? "border-signal" : "border-line"}`}
      />
    </div>
  );
}

/** A number with its unit, taken when it is left or Enter is pressed. */
export function NumberField({
  label,
  unit,
  value,
  least,
  most,
  onSet,
}: {
  label: string;
  unit: string;
  value: number;
  least: number;
  most: number;
  onSet: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const read = text === null ? value : Number(text.replace(",", ".").trim() || "x");
  const wrong = !(read >= least && read <= most);
  const enter = () => {
    if (text === null || wrong) return;
    setText(null);
    if (read !== value) onSet(read);
  };
  return (
    <span
      className={`flex min-w-0 items-center rounded-md border bg-white pr-1.5 ${wrong ? "border-signal" : "border-line"}`}
    >
      <input
        aria-label={label}
        aria-invalid={wrong}
        value={text ?? String(Number(value.toFixed(6)))}
        onChange={(event) => setText(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={enter}
        onKeyDown={(event) => {
          if (event.key === "Enter") enter();
          if (event.key === "Escape") setText(null);
        }}
        className="w-full min-w-0 rounded-md bg-transparent px-1.5 py-0.5 text-right"
      />
      <span className="text-[12px] whitespace-nowrap text-ink-soft">{unit}</span>
    </span>
  );
}

/** A length that may be left empty; taken when it is left or Enter is pressed. A bare number is millimetres. */
export function LengthField({
  label,
  value,
  empty,
  onSet,
  className = "",
}: {
  label: string;
  value: number | null;
  empty: string;
  onSet: (value: number | null) => void;
  className?: string;
}) {
  const [text, setText] = useState<string | null>(null);
  const read = text?.trim() ? readLength(text) : null;
  const wrong = !!text?.trim() && (read === null || read < 0);
  const enter = () => {
    if (text === null || wrong) return;
    setText(null);
    if (read !== value) onSet(read);
  };
  return (
    <input
      aria-label={label}
      aria-invalid={wrong}
      placeholder={empty}
      value={text ?? (value === null ? "" : metric(value))}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={enter}
      onKeyDown={(event) => {
        if (event.key === "Enter") enter();
        if (event.key === "Escape" && text !== null) {
          event.stopPropagation();
          setText(null);
        }
      }}
      className={`min-w-0 rounded-md border bg-white px-1.5 py-0.5 text-right placeholder:text-ink-soft ${wrong ? "border-signal" : "border-line"} ${className}`}
    />
  );
}
