import { useEffect } from "react";

import { type Tool, useBench } from "./bench";

/** Points on the stage for one purpose: asked for with `ask`, there when all are picked, and let go of with `done`. */
export function useTool(tool: Tool) {
  const { view, setView } = useBench();
  const mine = view.tool?.id === tool.id;
  const picks = mine ? view.picks : [];
  useEffect(
    () => () => setView((now) => (now.tool?.id === tool.id ? { tool: null, picks: [] } : {})),
    [tool.id, setView],
  );
  return {
    active: mine,
    picks,
    complete: mine && picks.length >= tool.need,
    ask: () => setView(mine ? { tool: null, picks: [] } : { tool, picks: [] }),
    done: () => setView({ tool: null, picks: [] }),
  };
}
