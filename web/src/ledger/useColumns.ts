import { useMemo, useState } from "react";

import { type Column, COLUMNS, type Shelf, USUAL } from "./columns";

const place = (shelf: Shelf) => `ledger-columns-${shelf}`;

function kept(shelf: Shelf): string[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(place(shelf)) ?? "null");
    if (Array.isArray(found)) return found.filter((id) => COLUMNS.some((column) => column.id === id)) as string[];
  } catch {
    // What is kept is not ours: the usual ones.
  }
  return USUAL[shelf];
}

/** The columns of a rung that a person chose, kept in this browser. */
export function useColumns(shelf: Shelf): { shown: Column[]; ids: readonly string[]; choose: (ids: string[]) => void } {
  const [chosen, setChosen] = useState<Partial<Record<Shelf, string[]>>>({});
  const ids = useMemo(() => chosen[shelf] ?? kept(shelf), [chosen, shelf]);
  const shown = useMemo(() => ids.flatMap((id) => COLUMNS.find((column) => column.id === id) ?? []), [ids]);
  const choose = (next: string[]) => {
    setChosen((now) => ({ ...now, [shelf]: next }));
    if (next.join() === USUAL[shelf].join()) localStorage.removeItem(place(shelf));
    else localStorage.setItem(place(shelf), JSON.stringify(next));
  };
  return { shown, ids, choose };
}
