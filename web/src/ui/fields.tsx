import { Slider as RadixSlider } from "radix-ui";
import { useEffect, useState } from "react";

import { lengths, numbers, type Reader } from "../api/read";
import { metric } from "./format";
import { useTyped } from "./typed";

const MILLIMETRES = lengths("mm");
const SIGNED_METRES = lengths("m", true);
const PLAIN = numbers("");

/** What is offered for a number, as the server tells it. */
export interface Offered {
  least: number;
  most: number;
  start: number;
}

/** A slider on a logarithmic scale with a field beside it that takes the same value as text. */
export function LogField({
  label,
  value,
  range: { least, most },
  show,
  read = MILLIMETRES,
  onMove,
  onSet,
}: {
  label: string;
  value: number;
  range: Offered;
  show: (value: number) => string;
  /** Lengths where nothing else is said. */
  read?: Reader;
  onMove: (value: number) => void;
  onSet: (value: number) => void;
}) {
  const [held, setHeld] = useState<number | null>(null);
  useEffect(() => {
    if (held === null) return;
    const settle = setTimeout(() => setHeld(null), 1500);
    return () => clearTimeout(settle);
  }, [held, value]);
  const shown = held ?? value;
  const typed = useTyped({
    value,
    shown: show(shown),
    read,
    refuse: (next) =>
      next >= least * 0.999 && next <= most * 1.001 ? null : `Between ${show(least)} and ${show(most)}.`,
    onSet: (next) => onSet(next!),
  });
  const position = (Math.log(shown / least) / Math.log(most / least)) * 100;
  const round = (raw: number) => Number(raw.toPrecision(2));
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
          typed.forget();
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
      <span className="relative">
        <input
          aria-label={`${label}, typed`}
          {...typed.input()}
          className={`w-full rounded-md border bg-white px-1.5 py-0.5 text-right ${typed.wrong ? "border-signal" : "border-field"}`}
        />
        {typed.note}
      </span>
    </div>
  );
}

/** A field with a word behind what is typed, such as its unit. */
const Framed = ({ label, typed, mark }: { label: string; typed: ReturnType<typeof useTyped>; mark: string }) => (
  <span
    className={`relative flex min-w-0 items-center rounded-md border bg-white pr-1.5 ${typed.wrong ? "border-signal" : "border-field"}`}
  >
    <input
      aria-label={label}
      {...typed.input()}
      className="w-full min-w-0 rounded-md bg-transparent px-1.5 py-0.5 text-right"
    />
    <span className="text-[12px] whitespace-nowrap text-ink-soft">{mark}</span>
    {typed.note}
  </span>
);

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
  const typed = useTyped({
    value,
    shown: String(Number(value.toFixed(6))),
    read: PLAIN,
    refuse: (next) => (next >= least && next <= most ? null : `Between ${least} and ${most} ${unit}.`),
    onSet: (next) => onSet(next!),
  });
  return <Framed label={label} typed={typed} mark={unit} />;
}

/** A field that may be left empty, and says what it then means. */
const Plain = ({
  label,
  empty,
  typed,
  className = "",
}: {
  label: string;
  empty: string;
  typed: ReturnType<typeof useTyped>;
  className?: string;
}) => (
  <span className={`relative flex min-w-0 ${className}`}>
    <input
      aria-label={label}
      placeholder={empty}
      {...typed.input(true)}
      className={`w-0 min-w-0 grow rounded-md border bg-white px-1.5 py-0.5 text-right placeholder:text-ink-soft ${typed.wrong ? "border-signal" : "border-field"}`}
    />
    {typed.note}
  </span>
);

/** A whole number that may be left empty; taken when it is left or Enter is pressed. */
export function CountField({
  label,
  value,
  empty,
  least,
  most,
  onSet,
}: {
  label: string;
  value: number | null;
  empty: string;
  least: number;
  most: number;
  onSet: (value: number | null) => void;
}) {
  const typed = useTyped({
    value,
    shown: value === null ? "" : String(value),
    read: PLAIN,
    refuse: (next) =>
      Number.isInteger(next) && next >= least && next <= most ? null : `A whole number between ${least} and ${most}.`,
    onSet,
  });
  return <Plain label={label} empty={empty} typed={typed} />;
}

/** A share in percent that may be left empty, with what it is a share of behind it. */
export function ShareField({
  label,
  value,
  of,
  empty,
  least,
  most,
  onSet,
}: {
  label: string;
  value: number | null;
  of: string;
  empty: string;
  least: number;
  most: number;
  onSet: (value: number | null) => void;
}) {
  const show = (share: number) => `${Number((100 * share).toPrecision(3))} %`;
  const typed = useTyped({
    value,
    shown: value === null ? "" : `${show(value)} ${of}`,
    read: numbers(`% ${of}|%`, 0.01),
    refuse: (next) => (next >= least && next <= most ? null : `Between ${show(least)} and ${show(most)}.`),
    onSet,
  });
  return <Plain label={label} empty={empty} typed={typed} />;
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
  const typed = useTyped({
    value,
    shown: value === null ? "" : metric(value),
    read: MILLIMETRES,
    refuse: () => null,
    onSet,
  });
  return <Plain label={label} empty={empty} typed={typed} className={className} />;
}

/** How far along an axis, in either direction. A bare number is metres. */
export function MoveField({
  label,
  axis,
  value,
  onSet,
}: {
  label: string;
  axis: string;
  value: number;
  onSet: (value: number) => void;
}) {
  const typed = useTyped({
    value,
    shown: `${Number(value.toFixed(6))} m`,
    read: SIGNED_METRES,
    refuse: (next) => (Math.abs(next) <= 1e8 ? null : "No farther than 100,000 km."),
    onSet: (next) => onSet(next ?? 0),
  });
  return <Framed label={label} typed={typed} mark={axis} />;
}
