const REST_AFTER_MS = 600;
const PAUSE_MS = 100;

/**
 * Looks at every frame of the screen whether something is to be drawn; once nothing has been for a moment only ten times a
 * second, so that a picture at rest leaves the machine to others. Whoever asks for something wakes it.
 */
export class Beat {
  private raf = 0;
  private timer = 0;
  private busyAt = 0;

  /** `look` gives whether something goes on, now or soon. */
  constructor(private readonly look: (now: number) => boolean) {
    this.raf = requestAnimationFrame(this.step);
  }

  private readonly step = (now: number): void => {
    try {
      if (this.look(now)) this.busyAt = now;
    } finally {
      if (now - this.busyAt < REST_AFTER_MS) this.raf = requestAnimationFrame(this.step);
      else this.timer = window.setTimeout(this.wake, PAUSE_MS);
    }
  };

  /** Look at the next frame. */
  readonly wake = (): void => {
    if (!this.timer) return;
    window.clearTimeout(this.timer);
    this.timer = 0;
    this.raf = requestAnimationFrame(this.step);
  };

  stop(): void {
    window.clearTimeout(this.timer);
    cancelAnimationFrame(this.raf);
    this.timer = 0;
  }
}
