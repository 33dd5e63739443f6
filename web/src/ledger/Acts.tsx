import { useBench } from "../bench/bench";
import { Chevron } from "../ui/Chevron";
import { Button } from "../ui/controls";
import { count, plural } from "../ui/format";
import { Properties } from "./Properties";
import { Selections } from "./Selections";

/** What can be done with what is chosen, the same menu as a row's own; selections that are kept. */
export function Acts() {
  const { structure, view, setView, locked } = useBench();
  const some = view.chosen.size > 0;
  const what = view.places ? plural(view.places.size, "placement") : plural(view.chosen.size, "part");
  const times = [...view.chosen].reduce((sum, part) => sum + (structure?.parts[part]?.times ?? 0), 0);
  const often = !view.places && times > view.chosen.size ? `, ${count(times)}×` : "";
  const hidden = view.hidden.size + view.hiddenPlaces.size;
  return (
    <>
      {some && <Properties />}
      {(some || hidden > 0 || locked.size > 0) && (
        <Button
          aria-haspopup="menu"
          className="flex items-center gap-1.5"
          onClick={(event) => {
            const { left, top } = event.currentTarget.getBoundingClientRect();
            setView({ menu: { x: left, y: top } });
          }}
        >
          {some
            ? `With ${what}${often}`
            : [hidden && `${hidden} hidden`, locked.size && `${locked.size} locked`].filter(Boolean).join(", ")}
          <Chevron to="up" className="text-ink-soft" />
        </Button>
      )}
      <Selections />
    </>
  );
}
