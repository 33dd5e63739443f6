import { plural } from "../ui/format";
import type { Bench } from "./bench";

/** Lock the chosen parts, so that they can neither be picked nor changed; or unlock whatever is. */
export function lock({ view, structure, decisions, decide, setView }: Bench, on: boolean) {
  const refs = on ? [...view.chosen].flatMap((part) => structure?.parts[part]?.ref ?? []) : [];
  const { locked } = decisions.sort;
  if (on ? !refs.length : !locked.length) return;
  decide(
    (now) => ({ ...now, sort: { ...now.sort, locked: on ? [...new Set([...now.sort.locked, ...refs])] : [] } }),
    on ? `Locked ${plural(refs.length, "part")}` : "Nothing is locked",
  );
  if (on) setView({ chosen: new Set() });
}
