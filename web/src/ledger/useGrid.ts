import { type KeyboardEvent, useEffect, useState } from "react";

import type { Row } from "./rows";

/** How something is chosen: alone, added or taken away, or everything from where one began to here. */
export type How = "alone" | "toggle" | "range";

export const howOf = (event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): How =>
  event.shiftKey ? "range" : event.ctrlKey || event.metaKey ? "toggle" : "alone";

/**
 * The keys of a tree grid by the pattern of the ARIA Authoring Practices: the grid is one tab stop, the row in it
 * that keys speak to is named by aria-activedescendant, for only the rows in view exist.
 */
export function useGrid({
  rows,
  tree,
  form,
  opened,
  page,
  onOpen,
  onChoose,
  onShow,
}: {
  rows: Row[];
  tree: boolean;
  /** What the keys of rows count: they are others in another form. */
  form: string;
  opened: (row: Row) => boolean;
  /** Rows to a page. */
  page: number;
  onOpen: (row: Row) => void;
  onChoose: (rows: Row[], how: How) => void;
  onShow: (index: number) => void;
}) {
  const [active, setActive] = useState<number | null>(null);
  const [anchor, setAnchor] = useState<number | null>(null);
  const indexOf = (key: number | null) => (key === null ? -1 : rows.findIndex((row) => row.key === key));
  // Rows of another form have other keys.
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what keys speak to goes with its row
    setActive(null);
    setAnchor(null);
  }, [form]);

  const choose = (index: number, how: How) => {
    const row = rows[index];
    if (!row) return;
    setActive(row.key);
    const began = indexOf(anchor);
    if (how === "range" && began >= 0)
      return onChoose(rows.slice(Math.min(began, index), Math.max(began, index) + 1), how);
    setAnchor(row.key);
    onChoose([row], how === "range" ? "alone" : how);
  };
  const goTo = (index: number, range: boolean) => {
    const to = Math.min(rows.length - 1, Math.max(0, index));
    if (!rows[to]) return;
    if (range && anchor === null) setAnchor(active);
    setActive(rows[to].key);
    onShow(to);
    if (range) choose(to, "range");
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.altKey) return;
    const at = indexOf(active);
    const row = rows[at];
    const moves: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at < 0 ? 0 : at - 1,
      PageDown: at + page,
      PageUp: at - page,
      Home: 0,
      End: rows.length - 1,
    };
    if (event.key in moves) goTo(moves[event.key]!, event.shiftKey);
    else if ((event.key === "Enter" || event.key === " ") && row) choose(at, howOf(event));
    else if (event.key.toLowerCase() === "a" && (event.ctrlKey || event.metaKey)) onChoose(rows, "range");
    else if (tree && row && event.key === "ArrowRight") {
      if (!row.below) return;
      if (opened(row)) goTo(at + 1, false);
      else onOpen(row);
    } else if (tree && row && event.key === "ArrowLeft") {
      if (row.below && opened(row)) onOpen(row);
      else {
        let above = at - 1;
        while (above >= 0 && rows[above]!.depth >= row.depth) above--;
        if (above >= 0) goTo(above, false);
      }
    } else return;
    event.preventDefault();
  };
  return { active, choose, onKeyDown };
}
