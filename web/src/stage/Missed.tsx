import { useMemo } from "react";

import { goTo, useBench } from "../bench/bench";
import { Button } from "../ui/controls";
import { plural } from "../ui/format";

/** Under the look by colours: how much has no material, and so no colour of its own; found by one click. */
export function Missed() {
  const bench = useBench();
  const { result } = bench;
  const places = useMemo(
    () => result?.dress_of.reduce((sum, dress) => sum + (result.dresses[dress]!.loose ? 1 : 0), 0) ?? 0,
    [result],
  );
  if (!result) return null;
  const groups = new Set(result.dresses.flatMap((dress) => dress.materials)).size;
  return (
    <div
      role="status"
      className="absolute top-14 left-3.5 z-10 flex items-center gap-2 rounded-[5px] border border-line bg-paper/90 px-2 py-1 text-[12.5px]"
    >
      {places ? (
        <>
          <span className="font-semibold text-signal">
            {plural(places, "placement")} of {plural(result.loose_parts.length, "part")} missed
          </span>
          <Button quiet className="!px-0 !py-0" onClick={() => goTo(bench, result.loose_parts)}>
            Find them
          </Button>
        </>
      ) : (
        <span>{plural(groups, "material")}, nothing missed</span>
      )}
    </div>
  );
}
