/** On weak graphics lines over all edges take longer than all else: they wait until nothing moved for so many milliseconds. */
const REST = 500;
/** On weak graphics, so much of the time (milliseconds) is left to others at the most after a picture nobody waits for. */
const LONGEST = 400;

/** When the stage draws: once for however many ask, and never more than the graphics card gets done. */
export class Pace {
  private asked = false;
  private patient = true;
  private fence: WebGLSync | null = null;
  private began = 0;
  private free = 0;
  private resting: ReturnType<typeof setTimeout> | undefined;

  /** `draw` draws now, with or without what waits for rest; `waits` says whether anything does; `light` are weak graphics. */
  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly draw: (whole: boolean) => void,
    private readonly waits: () => boolean,
    private readonly light: boolean,
  ) {}

  stop() {
    clearTimeout(this.resting);
  }

  /**
   * Draw soon, once, however often it is asked. `patient` is who shows what came in: on weak graphics, which take the
   * time of those who make it, as long is left to them after a picture as the picture took.
   */
  ask(patient = false) {
    this.patient &&= patient;
    if (this.asked) return;
    this.asked = true;
    this.patient = patient;
    const turn = () => {
      // The card is still at the last picture: more for it to do would only make the page wait for it.
      if (this.isBusy || (this.patient && performance.now() < this.free))
        return void setTimeout(() => requestAnimationFrame(turn), 8);
      this.asked = false;
      this.draw(!this.light);
    };
    requestAnimationFrame(turn);
  }

  /** All of a picture was sent to the card, lines and all (`whole`) or without what waits for rest. */
  sent(whole: boolean) {
    const { gl } = this;
    if (this.fence) gl.deleteSync(this.fence);
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    clearTimeout(this.resting);
    if (!this.light) return;
    this.began = performance.now();
    this.watch();
    if (!whole && this.waits()) this.rest();
  }

  /** Notices when the card is done. */
  private watch() {
    if (this.isBusy) setTimeout(() => this.watch(), 8);
  }

  /** Draw what waits for rest as soon as there is some. */
  private rest() {
    this.resting = setTimeout(() => {
      if (this.isBusy) this.rest();
      else if (!this.asked) this.draw(true);
    }, REST);
  }

  /** Whether the graphics card has not finished the last picture. */
  private get isBusy(): boolean {
    const { gl } = this;
    if (!this.fence || gl.isContextLost()) return false;
    if (gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED) return true;
    gl.deleteSync(this.fence);
    this.fence = null;
    const now = performance.now();
    if (this.light) this.free = now + Math.min(now - this.began, LONGEST);
    return false;
  }

  /** Calls back when the graphics card has nothing to do. */
  whenCalm(tell: () => void) {
    if (this.asked || this.isBusy) setTimeout(() => this.whenCalm(tell), 60);
    else tell();
  }
}
