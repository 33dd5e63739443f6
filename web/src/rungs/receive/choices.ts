import type { Decisions, Tally } from "../../api/client";

export type Choice = Decisions["receive"]["choices"][number];
type Named = Pick<Tally, "by" | "match" | "source">;

const speaksOf = (choice: Choice, named: Named) =>
  choice.by === named.by && (choice.source == null || choice.source === named.source);
const names = (choice: Choice, named: Named) => speaksOf(choice, named) && choice.match === named.match;

/** Whether a name enters as far as choices of its own kind go. */
export function enters(choices: Choice[], named: Named): boolean {
  if (choices.some((choice) => !choice.take && names(choice, named))) return false;
  const only = choices.filter((choice) => choice.take && speaksOf(choice, named));
  return !only.length || only.some((choice) => names(choice, named));
}

/** The choices after a name is ticked or unticked: among those taken alone where there are such, else left out. */
export function ticked(choices: Choice[], named: Named): Choice[] {
  const { by, match, source } = named;
  if (enters(choices, named)) {
    const rest = choices.filter((choice) => !(choice.take && names(choice, named)));
    const others = rest.length < choices.length && rest.some((choice) => choice.take && speaksOf(choice, named));
    return others ? rest : [...choices, { by, match, source, take: false }];
  }
  const rest = choices.filter((choice) => choice.take || !names(choice, named));
  const only = rest.some((choice) => choice.take && speaksOf(choice, named));
  return only && !rest.some((choice) => choice.take && names(choice, named))
    ? [...rest, { by, match, source, take: true }]
    : rest;
}

/** The choices after a name is the only one of its kind, in its source, that enters. */
export function alone(choices: Choice[], { by, match, source }: Named): Choice[] {
  const others = choices.filter((choice) => !speaksOf(choice, { by, match, source }));
  return [...others, { by, match, source, take: true }];
}
