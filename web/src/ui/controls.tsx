import { Select as RadixSelect, Slider as RadixSlider, ToggleGroup } from "radix-ui";
import { type ButtonHTMLAttributes, type ReactNode, useEffect, useState } from "react";

import { metric, readLength } from "./format";

/** A push button; `main` for the one thing to do here, `quiet` inside text and rows. */
export function Button({
  main,
  quiet,
  on,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { main?: boolean; quiet?: boolean; on?: boolean }) {
  const look =
    main || on
      ? "border-ink bg-ink text-white"
      : quiet
        ? "border-transparent text-ink underline decoration-line underline-offset-4 hover:decoration-ink"
        : "border-line bg-paper text-ink hover:border-rope-light";
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`rounded-md border px-2.5 py-1 text-[13px] font-semibold whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-45 ${look} ${className}`}
      {...rest}
    />
  );
}

/** A choice of one among few, side by side. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T | null;
  options: { value: T; label: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value ?? ""}
      onValueChange={(next) => next && onChange(next as T)}
      className="flex overflow-hidden rounded-md border border-line bg-paper"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="flex-1 border-l border-line px-1.5 py-1 text-[12.5px] whitespace-nowrap text-ink-soft first:border-l-0 hover:bg-cloth data-[state=on]:bg-ink data-[state=on]:font-semibold data-[state=on]:text-white"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

/** A list to choose from. */
export function Select({
  label,
  value,
  options,
  onChange,
  className = "",
  empty = "Choose…",
}: {
  label: string;
  value: string;
  options: { value: string; label: string; swatch?: string }[];
  onChange: (value: string) => void;
  className?: string;
  empty?: string;
}) {
  const chosen = options.find((option) => option.value === value);
  return (
    <RadixSelect.Root value={value} onValueChange={onChange}>
      <RadixSelect.Trigger
        aria-label={label}
        className={`flex min-w-0 items-center justify-between gap-1.5 rounded-md border border-line bg-white px-2 py-1 text-left text-[13px] hover:border-rope-light ${className}`}
      >
        <span className="flex min-w-0 items-center gap-1.5">
          {chosen?.swatch && <Swatch colour={chosen.swatch} />}
          <span className="truncate">{chosen?.label ?? empty}</span>
        </span>
        <span aria-hidden className="text-[9px] text-ink-soft">
          ▼
        </span>
      </RadixSelect.Trigger>
      <RadixSelect.Portal>
        <RadixSelect.Content
          position="popper"
          sideOffset={4}
          className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-auto rounded-md border border-line bg-paper p-1 shadow-lg"
        >
          <RadixSelect.Viewport>
            {options.map((option) => (
              <RadixSelect.Item
                key={option.value}
                value={option.value}
                className="flex cursor-pointer items-center gap-2 rounded px-2 py-1 text-[13px] outline-none select-none data-[highlighted]:bg-cloth-deep data-[state=checked]:font-semibold"
              >
                {option.swatch && <Swatch colour={option.swatch} />}
                <RadixSelect.ItemText>{option.label}</RadixSelect.ItemText>
              </RadixSelect.Item>
            ))}
          </RadixSelect.Viewport>
        </RadixSelect.Content>
      </RadixSelect.Portal>
    </RadixSelect.Root>
  );
}

export const Swatch = ({ colour }: { colour: string }) => (
  <i
    aria-hidden
    className="inline-block size-[11px] shrink-0 rounded-[2px] border border-black/15"
    style={{ background: colour }}
  />
);

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

/** A figure with what it means under it. */
export const Figure = ({ value, meaning, alert }: { value: ReactNode; meaning: string; alert?: boolean }) => (
  <div className="text-[12px] leading-tight text-ink-soft">
    <b className={`block text-[16px] font-semibold ${alert ? "text-signal" : "text-ink"}`}>{value}</b>
    {meaning}
  </div>
);

/** A name and its value on one line. */
export const Fact = ({ name, children }: { name: string; children: ReactNode }) => (
  <div className="flex items-baseline justify-between gap-3 py-[2px]">
    <dt className="text-ink-soft">{name}</dt>
    <dd className="min-w-0 text-right">{children}</dd>
  </div>
);

/** How far something long is. */
export const Progress = ({ share, label }: { share: number | null; label: string }) => (
  <div
    role="progressbar"
    aria-label={label}
    aria-valuenow={share === null ? undefined : Math.round(share * 100)}
    className="h-1.5 overflow-hidden rounded bg-cloth-deep"
  >
    <div
      className={`h-full bg-sea transition-[width] ${share === null ? "w-1/3 animate-pulse" : ""}`}
      style={share === null ? undefined : { width: `${share * 100}%` }}
    />
  </div>
);
