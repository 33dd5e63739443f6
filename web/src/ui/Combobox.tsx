import { Popover } from "radix-ui";
import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";

import { Chevron } from "./Chevron";
import { Swatch } from "./Swatch";

export interface Option {
  value: string;
  label: string;
  swatch?: string;
}

/** How a list looks while it is closed. */
export const CLOSED =
  "flex min-w-0 items-center justify-between gap-1.5 rounded-md border border-field bg-white px-2 py-1 text-left text-[13px] hover:border-rope-light";
export const Closed = ({ chosen, empty }: { chosen: Option | undefined; empty: string }) => (
  <>
    <span className="flex min-w-0 items-center gap-1.5">
      {chosen?.swatch && <Swatch colour={chosen.swatch} />}
      <span className="truncate">{chosen?.label ?? empty}</span>
    </span>
    <Chevron to="down" className="text-ink-soft" />
  </>
);

/** A long list to choose from, with a field to find something in it: the combobox of the ARIA Authoring Practices. */
export function Combobox({
  label,
  value,
  options,
  onChange,
  className = "",
  empty,
}: {
  label: string;
  value: string;
  options: readonly Option[];
  onChange: (value: string) => void;
  className?: string;
  empty: string;
}) {
  const [open, setOpen] = useState(false);
  const chosen = options.find((option) => option.value === value);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={label}
        role="combobox"
        aria-haspopup="listbox"
        aria-expanded={open}
        className={`${CLOSED} ${className}`}
      >
        <Closed chosen={chosen} empty={empty} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label={label}
          className="z-50 w-max max-w-80 min-w-(--radix-popover-trigger-width) rounded-md border border-line bg-paper p-1 shadow-lg"
        >
          <Finder
            label={label}
            value={value}
            options={options}
            onTake={(next) => {
              setOpen(false);
              if (next !== value) onChange(next);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Finder({
  label,
  value,
  options,
  onTake,
}: {
  label: string;
  value: string;
  options: readonly Option[];
  onTake: (value: string) => void;
}) {
  const id = useId();
  const list = useRef<HTMLDivElement>(null);
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const shown = options.filter((option) => option.label.toLowerCase().includes(wanted));
  const [active, setActive] = useState(() =>
    Math.max(
      0,
      options.findIndex((option) => option.value === value),
    ),
  );
  const at = Math.min(active, shown.length - 1);
  useEffect(() => {
    list.current?.children[at]?.scrollIntoView({ block: "nearest" });
  }, [at]);
  const press = (event: KeyboardEvent) => {
    const to = { ArrowDown: at + 1, ArrowUp: at - 1, PageDown: at + 8, PageUp: at - 8 }[event.key];
    if (to !== undefined) setActive(Math.min(shown.length - 1, Math.max(0, to)));
    else if (event.key === "Enter" && shown[at]) onTake(shown[at].value);
    else return;
    event.preventDefault();
  };
  return (
    <>
      <input
        role="combobox"
        aria-label={`Find: ${label}`}
        aria-expanded
        aria-controls={id}
        aria-activedescendant={shown[at] ? `${id}-${at}` : undefined}
        aria-autocomplete="list"
        placeholder="Find…"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setActive(0);
        }}
        onKeyDown={press}
        className="mb-1 w-full rounded border border-field bg-white px-2 py-1 text-[13px] placeholder:text-ink-soft"
      />
      <div ref={list} id={id} role="listbox" aria-label={label} className="max-h-64 overflow-auto">
        {shown.map((option, index) => (
          <div
            key={option.value}
            id={`${id}-${index}`}
            role="option"
            aria-selected={option.value === value}
            onPointerMove={() => setActive(index)}
            onClick={() => onTake(option.value)}
            className={`flex cursor-pointer items-center gap-2 rounded px-2 py-1 text-[13px] select-none ${index === at ? "bg-cloth-deep" : ""} ${option.value === value ? "font-semibold" : ""}`}
          >
            {option.swatch && <Swatch colour={option.swatch} />}
            {option.label}
          </div>
        ))}
      </div>
      {!shown.length && (
        <p role="status" className="px-2 py-1 text-[13px] text-ink-soft">
          Nothing is called so.
        </p>
      )}
    </>
  );
}
