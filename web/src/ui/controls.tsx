import {
  Collapsible,
  Progress as RadixProgress,
  Select as RadixSelect,
  Switch as RadixSwitch,
  Toast,
  ToggleGroup,
  Tooltip,
} from "radix-ui";
import { type ButtonHTMLAttributes, type HTMLAttributes, type ReactNode, useState } from "react";

import { Chevron } from "./Chevron";
import { Closed, CLOSED, Combobox, type Option } from "./Combobox";
import { Swatch } from "./Swatch";

/** From so many on a list is one to search in. */
const LONG = 12;

/** A push button; `main` for the one thing to do here, `quiet` inside text and rows. */
export function Button({
  main,
  quiet,
  on,
  className = "",
  title,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { main?: boolean; quiet?: boolean; on?: boolean }) {
  const look =
    main || on
      ? "border-ink bg-ink text-white"
      : quiet
        ? "border-transparent text-ink underline decoration-line underline-offset-4 hover:decoration-ink"
        : "border-line bg-paper text-ink hover:border-rope-light";
  const button = (
    <button
      type="button"
      aria-pressed={on}
      className={`rounded-md border px-2.5 py-1 text-[13px] font-semibold whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-45 ${look} ${className}`}
      {...rest}
    />
  );
  return title ? <Tip text={title}>{button}</Tip> : button;
}

/** What a word on the screen means, for pointer and keyboard alike. */
export const Tip = ({ text, children }: { text: string; children: ReactNode }) => (
  <Tooltip.Root>
    <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
    <Tooltip.Portal>
      <Tooltip.Content
        sideOffset={6}
        className="z-[70] max-w-64 rounded bg-ink px-2.5 py-1 text-[12.5px] text-white shadow-lg"
      >
        {text}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
);

/** On or off. */
export const Switch = ({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) => (
  <RadixSwitch.Root
    aria-label={label}
    checked={on}
    onCheckedChange={onChange}
    className="h-6 w-10 shrink-0 rounded-full border border-ink-soft bg-white p-[3px] data-[state=checked]:border-ink data-[state=checked]:bg-ink"
  >
    <RadixSwitch.Thumb className="block size-4 rounded-full bg-ink-soft motion-safe:transition-transform data-[state=checked]:translate-x-4 data-[state=checked]:bg-white" />
  </RadixSwitch.Root>
);

/** A field with its name before it, which stand in line with those of other fields. */
export function Named({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <label className="grid grid-cols-[84px_1fr] items-center gap-2.5 text-[13px]">
      {name}
      {children}
    </label>
  );
}

/** A choice of one among few, side by side. */
export function OneOf<T extends string>({
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
      className="flex overflow-hidden rounded-md border border-field bg-paper"
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

interface Listed {
  label: string;
  value: string;
  options: readonly Option[];
  onChange: (value: string) => void;
  className?: string;
  empty?: string;
}

/** A list to choose from; a long one can be searched. */
export const Select = ({ empty = "Choose…", ...rest }: Listed) =>
  rest.options.length < LONG ? <ShortList empty={empty} {...rest} /> : <Combobox empty={empty} {...rest} />;

function ShortList({ label, value, options, onChange, className = "", empty = "" }: Listed) {
  const [open, setOpen] = useState(false);
  const chosen = options.find((option) => option.value === value);
  return (
    <RadixSelect.Root value={value} onValueChange={onChange} open={open} onOpenChange={setOpen}>
      <RadixSelect.Trigger aria-label={label} className={`${CLOSED} ${className}`}>
        <Closed chosen={chosen} empty={empty} />
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
                // Where the list took the release for that of the press that opened it, as a busy page does, it is
                // still open at the click.
                onClick={(event) => {
                  event.preventDefault();
                  setOpen(false);
                  if (option.value !== value) onChange(option.value);
                }}
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
  <RadixProgress.Root
    aria-label={label}
    value={share === null ? null : Math.round(share * 100)}
    className="h-1.5 overflow-hidden rounded bg-cloth-deep"
  >
    <RadixProgress.Indicator
      className={`h-full bg-sea motion-safe:transition-[width] ${share === null ? "w-1/3 motion-safe:animate-pulse" : ""}`}
      style={share === null ? undefined : { width: `${share * 100}%` }}
    />
  </RadixProgress.Root>
);

/** What stands below a line that unfolds it: around an `Unfold` and a `Folded`. */
export const Fold = ({
  open,
  onOpen,
  ...rest
}: { open: boolean; onOpen: (open: boolean) => void } & HTMLAttributes<HTMLDivElement>) => (
  <Collapsible.Root open={open} onOpenChange={onOpen} {...rest} />
);

/** The line that unfolds what is `Folded`: its name, and a few words at its end. */
export const Unfold = ({
  open,
  name,
  className = "",
  children,
}: {
  open: boolean;
  name: string;
  className?: string;
  children: ReactNode;
}) => (
  <Collapsible.Trigger className="flex w-full items-baseline gap-2 rounded text-left">
    <Chevron to={open ? "down" : "right"} className="text-ink-soft" />
    <b className={`min-w-0 flex-1 truncate font-semibold ${className}`}>{name}</b>
    <span className="shrink-0 text-[12.5px] text-ink-soft">{children}</span>
  </Collapsible.Trigger>
);

/** What is there only while its `Fold` is open. */
export const Folded = Collapsible.Content;

/** What went wrong, where the page is looked at, until it is closed. */
export const Notice = ({ text, onClose }: { text: string | null; onClose: () => void }) => (
  <Toast.Provider label="Notices" duration={Infinity} swipeDirection="down">
    <Toast.Root
      open={text !== null}
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      className="flex items-baseline gap-4 rounded-md border border-signal bg-signal-pale px-4 py-2 shadow-lg"
    >
      <Toast.Description>{text}</Toast.Description>
      <Toast.Close className="font-semibold underline">Close</Toast.Close>
    </Toast.Root>
    <Toast.Viewport label="Notices ({hotkey})" className="fixed bottom-4 left-1/2 z-[60] max-w-xl -translate-x-1/2" />
  </Toast.Provider>
);
