import { Popover } from "radix-ui";

import { Button } from "../ui/controls";
import { COLUMNS, OF, type Shelf, USUAL } from "./columns";

/** Which columns the ledger has: those that are ticked, in the order in which they were. */
export function ColumnChoice({
  shelf,
  ids,
  onChoose,
}: {
  shelf: Shelf;
  ids: readonly string[];
  onChoose: (ids: string[]) => void;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>Columns</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={6}
          aria-label="Columns"
          className="z-50 grid w-[330px] gap-2 rounded-md border border-line bg-paper p-3 text-[13px] shadow-lg"
        >
          <ul className="grid max-h-72 grid-cols-2 gap-x-3 overflow-auto">
            {COLUMNS.map(({ id, head }) => (
              <li key={id}>
                <label className="flex items-center gap-2 py-0.5">
                  <input
                    type="checkbox"
                    checked={ids.includes(id)}
                    onChange={() => onChoose(ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id])}
                    className="size-4 accent-sea"
                  />
                  <span className="truncate">
                    {head}
                    {OF[id] && <span className="text-ink-soft"> of {OF[id]}</span>}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <Button
            quiet
            className="justify-self-start !px-0"
            disabled={ids.join() === USUAL[shelf].join()}
            onClick={() => onChoose(USUAL[shelf])}
          >
            The usual ones
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
