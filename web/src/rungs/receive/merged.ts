import type { Finding } from "../../api/client";

const GRAVITY = { error: 0, warning: 1, note: 2 };

/** Findings that say the same of several sources, as one; the gravest first, what is settled last. */
export function merged(findings: Finding[]): Finding[][] {
  const groups = new Map<string, Finding[]>();
  for (const item of findings) {
    const same = [item.settled, item.code, item.message, item.why, item.remedy].join("\n");
    const group = groups.get(same);
    if (group) group.push(item);
    else groups.set(same, [item]);
  }
  return [...groups.values()].sort(
    ([a], [b]) => Number(a!.settled) - Number(b!.settled) || GRAVITY[a!.severity] - GRAVITY[b!.severity],
  );
}
