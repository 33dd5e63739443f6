import { createContext, type ReactNode, useContext, useEffect, useId, useRef } from "react";
import { createPortal } from "react-dom";

import { Boundary } from "../ui/Boundary";
import { Button } from "../ui/controls";
import { useBench } from "./bench";

/** How much of the width a strip of the stage keeps beside a board, and what the stage gives way by. */
const BESIDE = "right-[max(240px,24%)]";
export const STRIP = "pl-[min(calc(100%-240px),76%)]";

/** The element that stage and ledger share, which a board lies over. */
export const BoardPlace = createContext<HTMLElement | null>(null);

/** In the stage's place, for what needs the room: a head, a column with what is said, and the sheet beside it. The
 *  ladder and the strip stay. */
export function Board({
  title,
  description,
  onClose,
  beside,
  children,
}: {
  title: string;
  description: ReactNode;
  onClose: () => void;
  /** Whether a strip of the stage stays beside it, to look at and to point in. */
  beside?: boolean;
  children: ReactNode;
}) {
  const place = useContext(BoardPlace);
  const { setView } = useBench();
  const frame = useRef<HTMLElement>(null);
  const id = useId();
  // It takes the focus when it opens and gives it back to what opened it.
  useEffect(() => {
    const before = document.activeElement as HTMLElement | null;
    frame.current?.focus();
    setView({ board: beside ? "beside" : true });
    return () => {
      setView({ board: false });
      if (before?.isConnected) before.focus();
    };
  }, [setView, beside]);
  if (!place) return null;
  return createPortal(
    <section
      ref={frame}
      tabIndex={-1}
      data-board
      aria-labelledby={id}
      onKeyDown={(event) => {
        if (event.key === "Escape" && !event.defaultPrevented) onClose();
      }}
      className={`absolute inset-y-0 left-0 z-30 grid grid-rows-[auto_minmax(0,1fr)] overflow-hidden bg-paper outline-none ${beside ? `${BESIDE} grid-cols-2 border-r border-line` : "right-0 grid-cols-[minmax(360px,42%)_minmax(0,1fr)]"}`}
    >
      <header className="col-span-2 flex items-baseline gap-4 border-b border-line px-4 py-2.5">
        <h2 id={id} className="font-name text-[18px] font-semibold whitespace-nowrap">
          {title}
        </h2>
        <p className="min-w-0 text-[13px] text-ink-soft" role="status">
          {description}
        </p>
        <Button main className="ml-auto" onClick={onClose}>
          Done
        </Button>
      </header>
      <Boundary name={title}>{children}</Boundary>
    </section>,
    place,
  );
}
