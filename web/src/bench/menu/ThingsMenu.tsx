import { DropdownMenu } from "radix-ui";
import { createContext, type ReactNode, useContext, useState } from "react";

import { LIKE, likeChosen } from "../../ledger/like";
import { Chevron } from "../../ui/Chevron";
import { plural } from "../../ui/format";
import { Swatch } from "../../ui/Swatch";
import { type Bench, hideChosen, SHOW_ALL, showOnly, useBench } from "../bench";
import { lock } from "../lock";
import { NameSheet } from "./NameSheet";
import { gather, isLeftOut, keepSelection, leaveOut, rename, wear } from "./things";

const MOST = 40;
const LIST =
  "z-50 max-h-[70vh] min-w-52 overflow-auto rounded-md border border-line bg-paper p-1 text-[13px] shadow-lg";
const ITEM =
  "flex cursor-pointer items-center gap-2 rounded px-2 py-1 outline-none data-[disabled]:cursor-default data-[disabled]:opacity-45 data-[highlighted]:bg-cloth-deep";

/** Where menus open: in the page's main part, so that they are part of it for those who listen to it. */
const Place = createContext<HTMLElement | null>(null);
type Asked = { title: string; label: string; start: string; does: (name: string) => unknown } | null;

/** What can be done with what is chosen, where the pointer or the focus is: for rows of the ledger and for the stage. */
export function ThingsMenu({ place }: { place: HTMLElement | null }) {
  const bench = useBench();
  const { view, setView } = bench;
  const [asked, setAsked] = useState<Asked>(null);
  const close = () => setView({ menu: null });
  return (
    <>
      <DropdownMenu.Root open={!!view.menu} onOpenChange={(open) => !open && close()} modal={false}>
        <DropdownMenu.Trigger asChild>
          <span
            aria-hidden
            tabIndex={-1}
            className="pointer-events-none fixed size-px"
            style={{ left: view.menu?.x ?? 0, top: view.menu?.y ?? 0 }}
          />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal container={place}>
          <DropdownMenu.Content
            aria-label="What to do with what is chosen"
            align="start"
            sideOffset={2}
            collisionPadding={8}
            className={LIST}
          >
            <Place value={place}>
              <Items bench={bench} onAsk={setAsked} />
            </Place>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <NameSheet asked={asked} onClose={() => setAsked(null)} />
    </>
  );
}

function Items({ bench, onAsk }: { bench: Bench; onAsk: (asked: Asked) => void }) {
  const { structure, result, view, setView, decisions, locked } = bench;
  if (!structure || !result) return <p className="px-2 py-1 text-ink-soft">Nothing is here yet.</p>;
  const some = view.chosen.size > 0;
  const what = view.places ? plural(view.places.size, "placement") : plural(view.chosen.size, "part");
  const [only] = view.chosen;
  const name = view.chosen.size === 1 ? structure.parts[only!]!.label : what;
  const out = isLeftOut(bench);
  const hidden = view.hidden.size + view.hiddenPlaces.size > 0;
  const materials = result.materials.filter(({ id }) => id !== "undecided");
  const groups = decisions.sort.order.groups;
  return (
    <>
      <DropdownMenu.Label className="max-w-72 truncate px-2 py-1 font-semibold">
        {some ? (view.places ? `${name}: ${what}` : name) : "Nothing is chosen"}
      </DropdownMenu.Label>
      {some && (
        <>
          <Item onSelect={() => setView((now) => ({ framed: now.framed + 1 }))} keys="B">
            Bring into view
          </Item>
          <Item onSelect={() => setView(hideChosen)} keys="N">
            Hide
          </Item>
          <Item onSelect={() => setView((now) => showOnly(now, structure))} keys="O">
            Show only
          </Item>
          <Item onSelect={() => lock(bench, true)} keys="T">
            Lock
          </Item>
          <Line />
          <Sub label="Choose also">
            {LIKE.map(({ value, label }) => (
              <Item key={value} onSelect={() => setView((now) => likeChosen(now, structure, result, value))}>
                {label}
              </Item>
            ))}
          </Sub>
          <Sub label="Give a material">
            {materials.slice(0, MOST).map(({ id, name, colour }) => (
              <Item key={id} onSelect={() => wear(bench, id)}>
                <Swatch colour={colour} /> {name}
              </Item>
            ))}
            {materials.length > MOST && (
              <Item disabled>{plural(materials.length - MOST, "more")} on the board of rules</Item>
            )}
          </Sub>
          <Sub label="Put into a group">
            {groups.slice(0, MOST).map(({ id, name }) => (
              <Item key={id} onSelect={() => void gather(bench, name, id)}>
                {name}
              </Item>
            ))}
            <Item
              onSelect={() =>
                onAsk({
                  title: "A new group",
                  label: "Name of the group",
                  start: "",
                  does: (name) => gather(bench, name),
                })
              }
            >
              A new group…
            </Item>
          </Sub>
          <Item
            onSelect={() =>
              onAsk({
                title: `Rename ${name}`,
                label: "Name, or a template such as {layer}_{n}",
                start: view.chosen.size === 1 ? name : "{name}",
                does: (to) => rename(bench, to),
              })
            }
          >
            Rename…
          </Item>
          <Item
            onSelect={() =>
              onAsk({
                title: `Keep ${what} as a selection`,
                label: "Name of the selection",
                start: "",
                does: (kept) => keepSelection(bench, kept),
              })
            }
          >
            Keep as a selection…
          </Item>
          <Line />
          <Item onSelect={() => void leaveOut(bench, !out, `${what} ${out ? "taken again" : "left out"}`)}>
            {out ? "Ship after all" : "Do not ship"}
          </Item>
        </>
      )}
      {(hidden || locked.size > 0) && some && <Line />}
      {hidden && (
        <Item onSelect={() => setView(SHOW_ALL)} keys="A">
          Show all
        </Item>
      )}
      {locked.size > 0 && (
        <Item onSelect={() => lock(bench, false)} keys="Shift T">
          Unlock {plural(locked.size, "part")}
        </Item>
      )}
    </>
  );
}

const Item = ({
  onSelect,
  keys,
  disabled,
  children,
}: {
  onSelect?: () => void;
  keys?: string;
  disabled?: boolean;
  children: ReactNode;
}) => (
  <DropdownMenu.Item disabled={disabled} onSelect={onSelect} className={ITEM}>
    {children}
    {keys && (
      <span aria-hidden className="ml-auto pl-4 text-[12px] text-ink-soft">
        {keys}
      </span>
    )}
  </DropdownMenu.Item>
);

const Line = () => <DropdownMenu.Separator className="my-1 border-t border-cloth-deep" />;

const Sub = ({ label, children }: { label: string; children: ReactNode }) => (
  <DropdownMenu.Sub>
    <DropdownMenu.SubTrigger className={ITEM}>
      {label}
      <span className="ml-auto pl-4 text-ink-soft">
        <Chevron to="right" />
      </span>
    </DropdownMenu.SubTrigger>
    <DropdownMenu.Portal container={useContext(Place)}>
      <DropdownMenu.SubContent collisionPadding={8} className={LIST}>
        {children}
      </DropdownMenu.SubContent>
    </DropdownMenu.Portal>
  </DropdownMenu.Sub>
);
