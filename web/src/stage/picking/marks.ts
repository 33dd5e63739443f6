import type { Views } from "../../api/client";

/** What can be picked on a part, in its own coordinates, as arrays. */
export interface Marks {
  at: Float64Array;
  kind: Uint8Array;
  way: Float64Array;
  radius: Float64Array;
  lines: Float64Array;
  starts: Uint32Array;
  of: Int32Array;
}
export const [CORNER, MIDDLE, CENTRE, FACE] = [0, 1, 2, 3];

/** Milliseconds until marks that are being made are asked for again. */
const AGAIN = 350;
/** Milliseconds until what did not come may be asked for anew. */
const LATER = 3000;
/** Parts whose marks are held. */
const MOST = 60;

/** Fetches marks of parts once each, by the key of their mesh, and tells when some came. */
export class MarkShelf {
  private readonly here = new Map<string, Marks>();
  private readonly asked = new Set<string>();
  private closed = false;

  constructor(
    private readonly job: number,
    private readonly tell: () => void,
  ) {}

  /** A part's marks, or nothing while they are on their way. */
  get(part: number, key: string): Marks | undefined {
    const found = this.here.get(key);
    if (!found && !this.asked.has(key)) void this.fetch(part, key);
    return found;
  }

  close() {
    this.closed = true;
  }

  private async fetch(part: number, key: string) {
    this.asked.add(key);
    try {
      for (let turn = 0; turn < 200 && !this.closed; turn++) {
        const answer = await fetch(`/api/jobs/${this.job}/parts/${part}/marks`);
        if (answer.status === 200) {
          this.here.set(key, unpacked((await answer.json()) as Views["MarksView"]));
          for (const oldest of this.here.keys()) {
            if (this.here.size <= MOST) break;
            this.here.delete(oldest);
            this.asked.delete(oldest);
          }
          this.tell();
          return;
        }
        if (answer.status !== 202) break;
        await new Promise((resolve) => setTimeout(resolve, AGAIN));
      }
    } catch {
      // Asked for again, like what was refused.
    }
    // Whoever still points there asks again, after a while.
    setTimeout(() => this.asked.delete(key), LATER);
  }
}

const unpacked = (told: Views["MarksView"]): Marks => ({
  at: Float64Array.from(told.at),
  kind: Uint8Array.from(told.kind),
  way: Float64Array.from(told.way),
  radius: Float64Array.from(told.radius),
  lines: Float64Array.from(told.lines),
  starts: Uint32Array.from(told.starts),
  of: Int32Array.from(told.of),
});
