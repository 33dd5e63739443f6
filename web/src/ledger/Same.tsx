import { DropdownMenu } from "radix-ui";

import { useBench } from "../bench/bench";
import { Chevron } from "../ui/Chevron";
import { type Facet, sharedBy } from "./facets";

const LIKE: { value: Facet | "shape"; label: string }[] = [
  { value: "material", label: "All of the same material" },
  { value: "layer", label: "All of the same layer" },
  { value: "class", label: "All of the same class" },
  { value: "storey", label: "All on the same storey" },
  { value: "source", label: "All of the same source" },
  { value: "shape", label: "All of the same shape" },
];

/** Chooses what is like what is chosen. */
export function Same() {
  const { structure, result, view, setView } = useBench();
  if (!structure || !result) return null;
  const choose = (like: Facet | "shape") => {
    const found = new Set(view.chosen);
    if (like === "shape") {
      const meshes = new Set([...view.chosen].map((part) => result.parts[part]?.mesh).filter(Boolean));
      structure.parts.forEach((_, part) => {
        if (meshes.has(result.parts[part]?.mesh)) found.add(part);
      });
    } else
      for (const { parts } of sharedBy(like, structure, result, view.hidden))
        if ([...view.chosen].some((part) => parts.has(part))) for (const part of parts) found.add(part);
    setView({ chosen: found });
  };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex items-center gap-1 rounded-md border border-line bg-paper px-2.5 py-1 text-[13px] font-semibold whitespace-nowrap hover:border-rope-light">
        Like these <Chevron to="down" className="text-ink-soft" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side="top"
          align="end"
          sideOffset={4}
          className="z-50 rounded-md border border-line bg-paper p-1 text-[13px] shadow-lg"
        >
          {LIKE.map(({ value, label }) => (
            <DropdownMenu.Item
              key={value}
              onSelect={() => choose(value)}
              className="cursor-pointer rounded px-2 py-1 outline-none data-[highlighted]:bg-cloth-deep"
            >
              {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
