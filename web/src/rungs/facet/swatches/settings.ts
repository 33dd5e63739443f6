import type { Decisions, Views } from "../../../api/client";
import { type Whom, withOwn } from "../../../bench/exceptions/entries";
import { chordSaid } from "../OwnPurposes";

type FacetNow = Decisions["facet"];
type Entry = FacetNow["exceptions"][number];
export type Setting = Views["TryIn"];
export type Chord = FacetNow["chord"];

export const start = (whom: Whom): Entry => ({
  ...whom,
  chord: null,
  degrees: null,
  longest: null,
  shortest: null,
  even: null,
  made: "hand",
  pinned: false,
});
export const partsOf = (refs: string[]): Whom => ({ by: "parts", parts: refs, match: "", source: null, size: null });

export const degreesSaid = (degrees: number) => `${Number(degrees.toPrecision(3))}°`;
export const settingSaid = ({ chord, degrees }: Setting) => `${chordSaid(chord as Chord)}, ${degreesSaid(degrees!)}`;

/** So many times a chord error, with the angle that goes with it. */
export function scaled({ chord, degrees, ...edges }: Setting, times: number): Setting {
  const plain = (value: number) => Number(value.toPrecision(2));
  const own = chord as Chord;
  return {
    chord:
      own.kind === "absolute"
        ? { kind: "absolute", metres: Math.min(1, Math.max(1e-6, plain(own.metres * times))) }
        : { kind: "relative", share: Math.min(0.1, Math.max(1e-5, plain(own.share * times))) },
    degrees: Math.min(90, Math.max(1, plain(degrees! * Math.sqrt(times)))),
    ...edges,
  };
}

/** What holds for the sides of triangles, whatever else is tried. */
export const edgesOf = ({ longest, shortest, even }: FacetNow) => ({ longest, shortest, even });

/** The decisions with a setting for some parts, or for all that nobody made an exception of. */
export function adopted(now: Decisions, refs: string[], { chord, degrees }: Setting): Decisions {
  const own = { chord: chord as Chord, degrees: degrees! };
  if (!refs.length) return { ...now, facet: { ...now.facet, ...own } };
  const exceptions = withOwn(now.facet.exceptions, refs, (entry) => ({
    ...(entry ?? start(partsOf(refs))),
    ...own,
    made: "hand" as const,
  }));
  return { ...now, facet: { ...now.facet, exceptions } };
}
