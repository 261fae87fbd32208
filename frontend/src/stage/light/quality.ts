/** The steps of picture quality, from working speed to a final still, named by what each is for. */
export type StepName = "Build" | "Air" | "Pattern" | "Depth";
export const STEPS: readonly StepName[] = ["Build", "Air", "Pattern", "Depth"];

export interface Quality {
  name: StepName | "Still";
  /** Shafts in the haze. */
  shafts: boolean;
  /** Gobos, blades and prisms in the air, too. */
  pattern: boolean;
  /** How many beams throw shadows, and how many of their tiles may be drawn anew in a frame. */
  shadows: number;
  tilesAFrame: number;
  /** Samples along each shaft. */
  samples: number;
  bounce: boolean;
  bloom: boolean;
  smooth: boolean;
}

const COMMON = { bounce: true, bloom: true, smooth: true, shadows: 0, tilesAFrame: 0 };
export const QUALITIES: Record<StepName | "Still", Quality> = {
  Build: { ...COMMON, name: "Build", shafts: false, pattern: false, samples: 0, bounce: false, bloom: false },
  Air: { ...COMMON, name: "Air", shafts: true, pattern: false, samples: 4 },
  Pattern: { ...COMMON, name: "Pattern", shafts: true, pattern: true, samples: 6 },
  Depth: { ...COMMON, name: "Depth", shafts: true, pattern: true, samples: 7, shadows: 32, tilesAFrame: 8 },
  Still: { ...COMMON, name: "Still", shafts: true, pattern: true, samples: 14, shadows: 64, tilesAFrame: 64, smooth: false },
};

/** What a person asks of the picture: a step or the best that keeps a rate, and how much of the machine it may take. */
export interface Wish {
  step: StepName | "auto";
  fps: number;
  /** Share of time that drawing may keep the machine busy, 0.1..1. */
  cap: number;
}

const WINDOW_MS = 1000;
const REST_MOST_MS = 1500;
const SETTLE_MS = 900;

/**
 * Keeps the rate: in auto, goes a step down when frames take longer than the wish allows, a step up when there is plenty
 * of room. While nothing moves, the picture is refined to the best step once. After each frame it rests so that the cap holds.
 */
export class Governor {
  wish: Wish = { step: "auto", fps: 25, cap: 0.75 };
  private at = STEPS.length - 1;
  private frames: { ended: number; ms: number }[] = [];
  private changedAt = -1e9;
  private restUntil = 0;

  /** The step for a frame: `still` when nothing has changed for a moment. */
  step(still: boolean): StepName {
    if (this.wish.step !== "auto") return this.wish.step;
    return still ? "Depth" : (STEPS[this.at] as StepName);
  }

  /** Whether the picture is worth refining once it stands still. */
  get refines(): boolean {
    return this.wish.step === "auto" && this.at < STEPS.length - 1;
  }

  /** A frame of a moving picture took `ms`, from its start until the graphics processor had finished. */
  took(ms: number, now: number, moving: boolean): void {
    this.frames = [...this.frames.filter((frame) => now - frame.ended < WINDOW_MS), { ended: now, ms }];
    this.restUntil = now + Math.min(ms * (1 / Math.max(this.wish.cap, 0.1) - 1), REST_MOST_MS) * (ms > 4 ? 1 : 0);
    if (this.wish.step !== "auto" || !moving || now - this.changedAt < SETTLE_MS) return;
    const allowed = (1000 / this.wish.fps) * this.wish.cap;
    // Only frames of the step as it is now tell of it.
    const times = this.frames.filter((frame) => frame.ended - frame.ms >= this.changedAt).map((frame) => frame.ms);
    const median = times.sort((a, b) => a - b)[times.length >> 1] ?? ms;
    const next = median > allowed ? this.at - 1 : median < allowed * 0.45 ? this.at + 1 : this.at;
    if (next !== this.at && next >= 0 && next < STEPS.length) {
      this.at = next;
      this.changedAt = now;
    }
  }

  mayDraw(now: number): boolean {
    return now >= this.restUntil;
  }

  /** The share of the last second that frames took. */
  load(now: number): number {
    const ms = this.frames.filter((frame) => now - frame.ended < WINDOW_MS).reduce((sum, frame) => sum + frame.ms, 0);
    return Math.min(ms / WINDOW_MS, 1);
  }

  fps(now: number): number {
    return this.frames.filter((frame) => now - frame.ended < WINDOW_MS).length;
  }
}

/** A forecast of the rate at each step, by measured frames. */
export interface Forecast {
  step: StepName;
  ms: number;
  fps: number;
}

/** What to do about a forecast, in a sentence. */
export function advice(forecasts: Forecast[], wish: Wish): string {
  const best = [...forecasts].reverse().find((one) => one.fps >= wish.fps);
  if (best?.step === "Depth") return `This machine shows everything at ${wish.fps} frames a second.`;
  if (best) return `Up to ${best.step} this machine keeps ${wish.fps} frames a second; beyond, lower the rate or show fewer panes.`;
  const build = forecasts[0];
  return `Even Build stays below ${wish.fps} frames a second (${build ? build.fps.toFixed(1) : "0"}): lower the rate, the window or the resolution; a graphics card helps most.`;
}
