import { useMemo } from "react";

import { useBench } from "../bench/bench";
import { tinted } from "./tints";

const TITLES = { none: "", density: "Triangles by area", facet: "Size of facets", off: "Off by", view: "Near and far" };

/** What the colours of parts tell. */
export function TintKey() {
  const { view, result } = useBench();
  const key = useMemo(() => (result ? tinted(view.tint, result).key : []), [view.tint, result]);
  return (
    <section
      aria-label="Key to the colours"
      className="absolute right-3.5 bottom-12 rounded-[5px] border border-line bg-paper/95 px-2.5 py-1.5 text-[12.5px] tabular-nums"
    >
      <p className="pb-0.5 font-semibold">{TITLES[view.tint]}</p>
      <ul>
        {key.map(({ colour, said }) => (
          <li key={said} className="flex items-center gap-2">
            <span className="size-3 rounded-[2px] border border-line" style={{ background: colour }} aria-hidden />
            {said}
          </li>
        ))}
      </ul>
    </section>
  );
}
