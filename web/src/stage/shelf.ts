import type { Result } from "../api/client";
import { type PackedMesh, readPack } from "./packs";

/** Packs that are fetched at once. */
const AT_ONCE = 4;
/** Bytes of meshes that are held, unless a person asks for more: about a quarter of a small machine's memory. */
const BUDGET = 768 << 20;

interface Wanted {
  state: "waiting" | "coming" | "here" | "lost";
  bytes: number;
  stop?: AbortController;
}

/** Fetches packs, those that are in view first, and hands out meshes by key. */
export class PackShelf {
  private readonly meshes = new Map<string, PackedMesh>();
  private readonly wanted = new Map<string, Wanted>();
  private readonly keysOf = new Map<string, string[]>();
  private budget = BUDGET;
  private urgency: () => Map<string, number> = () => new Map();
  private tell: () => void = () => {};

  /** Have this called whenever something came or could not be had. */
  listen(tell: () => void) {
    this.tell = tell;
  }

  get(key: string): PackedMesh | undefined {
    return this.meshes.get(key);
  }

  /** Whether a pack's meshes are here. */
  has(pack: string): boolean {
    return this.wanted.get(pack)?.state === "here";
  }

  /** Whether every mesh of a result is here. */
  isHere(result: Result | undefined): boolean {
    return !!result?.parts.every((part) => !part.mesh || !part.pack || this.meshes.has(part.mesh));
  }

  /** How many packs could not be had, and how many wait because the budget is used up; its size in bytes. */
  get standing() {
    let lost = 0;
    let waiting = 0;
    for (const { state } of this.wanted.values()) {
      if (state === "lost") lost++;
      if (state === "waiting") waiting++;
    }
    return { lost, over: this.isFull ? waiting : 0, budget: this.budget };
  }

  private get bytes() {
    let sum = 0;
    for (const { bytes } of this.wanted.values()) sum += bytes;
    return sum;
  }

  private get isFull() {
    return this.bytes >= this.budget;
  }

  /**
   * Want these packs and no others: what is under way for others is abandoned, and their meshes let go of. `urgency`
   * says how soon each is wanted, the smallest first; it is asked when the next one is fetched.
   */
  want(packs: ReadonlySet<string>, urgency: () => Map<string, number>) {
    this.urgency = urgency;
    for (const [pack, item] of this.wanted)
      if (!packs.has(pack)) {
        item.stop?.abort();
        for (const key of this.keysOf.get(pack) ?? []) this.meshes.delete(key);
        this.keysOf.delete(pack);
        this.wanted.delete(pack);
      }
    for (const pack of packs) if (!this.wanted.has(pack)) this.wanted.set(pack, { state: "waiting", bytes: 0 });
    this.goOn();
  }

  /** Ask again for what could not be had. */
  again() {
    for (const item of this.wanted.values()) if (item.state === "lost") item.state = "waiting";
    this.goOn();
  }

  /** Hold as much again. */
  allowMore() {
    this.budget += BUDGET;
    this.goOn();
  }

  dispose() {
    this.tell = () => {};
    this.want(new Set(), this.urgency);
  }

  private goOn() {
    const waiting = [...this.wanted].filter(([, item]) => item.state === "waiting");
    let coming = [...this.wanted.values()].filter((item) => item.state === "coming").length;
    if (waiting.length && coming < AT_ONCE && !this.isFull) {
      const urgency = this.urgency();
      waiting.sort(([a], [b]) => (urgency.get(a) ?? Infinity) - (urgency.get(b) ?? Infinity));
      for (const [pack, item] of waiting.slice(0, AT_ONCE - coming)) {
        coming++;
        void this.fetch(pack, item);
      }
    }
    this.tell();
  }

  private async fetch(pack: string, item: Wanted) {
    item.state = "coming";
    item.stop = new AbortController();
    try {
      const answer = await fetch(`/api/packs/${pack}`, { signal: item.stop.signal });
      if (!answer.ok) throw new Error(`pack ${answer.status}`);
      const data = await answer.arrayBuffer();
      if (this.wanted.get(pack) !== item) return;
      const meshes = readPack(data);
      for (const mesh of meshes) this.meshes.set(mesh.key, mesh);
      this.keysOf.set(
        pack,
        meshes.map((mesh) => mesh.key),
      );
      item.bytes = data.byteLength;
      item.state = "here";
    } catch {
      item.state = "lost";
    }
    if (this.wanted.get(pack) === item) this.goOn();
  }
}
