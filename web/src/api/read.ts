import { api, need, Problem } from "./client";

/** What a person typed, as it was understood; `other` where it can mean something else as well. */
export interface Reading {
  value: number;
  said?: string;
  other?: { value: number; said: string };
}

/** Understands typed text; a Problem says what was not understood. */
export type Reader = (text: string) => Promise<Reading>;

/** Lengths in metres, read by the server as everywhere. A bare number has the unit of the field. */
export const lengths =
  (bare: string, signed = false): Reader =>
  async (text) => {
    const { metres, said, other, other_said } = need(
      await api.GET("/api/lengths", { params: { query: { text, bare, signed } } }),
    );
    return { value: metres, said, other: other == null ? undefined : { value: other, said: other_said! } };
  };

/** Plain numbers with a mark that may be left out: `20°`, `0.1 %`, `8 times`. */
export const numbers =
  (mark: string, factor = 1): Reader =>
  (text) => {
    const bare = text.trim().replace(new RegExp(`\\s*(${mark})$`), "");
    const value = Number(bare.replace(",", ".") || "x") * factor;
    return Number.isFinite(value)
      ? Promise.resolve({ value })
      : Promise.reject(new Problem(`“${text.trim()}” is not a number.`, ""));
  };
