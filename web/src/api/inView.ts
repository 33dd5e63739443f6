/** Parts, by index, that a person looks at, so that theirs is made before the rest; nothing where all are, or nobody tells. */
let tell: () => number[] = () => [];

export const inView = (): number[] => tell();

/** Have it told by whoever draws; null when nobody does any more. */
export function tellInView(by: (() => number[]) | null) {
  tell = by ?? (() => []);
}
