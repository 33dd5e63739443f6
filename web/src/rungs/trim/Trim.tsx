import { useBench } from "../../bench/bench";
import { count } from "../../ui/format";

/** Nothing is taken away here yet, and the rung says so. */
export function Trim() {
  const { result } = useBench();
  return (
    <p className="text-[13.5px] text-ink-soft">
      Nothing is trimmed: all {result ? `${count(result.triangles)} triangles` : "triangles"} that Facet makes are
      shipped. To have fewer, allow a larger chord error there.
    </p>
  );
}
