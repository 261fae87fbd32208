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
  Depth: { ...COMMON, name: "Depth", shafts: true, pattern: true, samples: 7, shadows: 144, tilesAFrame: 8 },
  Still: { ...COMMON, name: "Still", shafts: true, pattern: true, samples: 14, shadows: 144, tilesAFrame: 144, smooth: false },
};

/** What a person asks of the picture: a step or the best that keeps a rate, and how much of the machine it may take. */
export interface Wish {
  step: StepName | "auto";
  fps: number;
  /** Share of time that drawing may keep the machine busy, 0.1..1. */
  cap: number;
  /** Between changes nothing is drawn: wheels stand where they were, and what is at rest is not refined. */
  rests?: boolean;
}

/** How a moving picture is drawn: at a step, and at a share of the resolution each way. */
export interface Rung {
  step: StepName;
  share: number;
}

/** From the best downwards: resolution goes first, then quality. */
export const LADDER: readonly Rung[] = [
  { step: "Depth", share: 1 }, { step: "Depth", share: 0.7 }, { step: "Depth", share: 0.5 }, { step: "Pattern", share: 0.5 },
  { step: "Air", share: 0.5 }, { step: "Build", share: 0.5 }, { step: "Build", share: 0.35 }, { step: "Build", share: 0.25 },
];
/** Roughly what a pixel costs at each step, and what a picture costs besides its pixels, against a whole one at Depth. */
const PIXELS: Record<StepName, number> = { Depth: 0.93, Pattern: 0.75, Air: 0.45, Build: 0.28 };
const BESIDES = 0.07;
const cost = ({ step, share }: Rung): number => BESIDES + PIXELS[step] * share * share;

const WINDOW_MS = 1000;
const REST_MOST_MS = 1500;
const SETTLE_MS = 900;
/** A step up wants to be met with this much room. */
const ROOM = 0.8;

/**
 * Keeps the rate: in auto a moving picture is drawn at the best rung that the rate allows, found at once from what the last
 * picture took, and goes up again a rung at a time. While nothing moves, the picture is refined to the best step once.
 * After each frame it rests so that the cap holds.
 */
export class Governor {
  wish: Wish = { step: "auto", fps: 25, cap: 0.75 };
  /** Coarsely at first: a picture at once, and programs for what moves made ready with it. */
  private at = LADDER.length - 1;
  /** What moves has been too slow once. */
  private lowered = false;
  private frames: { ended: number; ms: number }[] = [];
  private changedAt = -1e9;
  private restUntil = 0;

  /** How a frame is drawn: `still` when nothing has changed for a moment. A step that was chosen is drawn whole, always. */
  rung(still: boolean): Rung {
    if (this.wish.step !== "auto") return { step: this.wish.step, share: 1 };
    return (still ? LADDER[0] : LADDER[this.at]) as Rung;
  }

  /** Whether the picture is worth refining once it stands still. */
  get refines(): boolean {
    return this.wish.step === "auto" && this.at > 0 && !this.wish.rests;
  }

  private get allowed(): number {
    return (1000 / this.wish.fps) * this.wish.cap;
  }

  /** A whole picture at the best step took `ms` of drawing: what a picture that begins to move is drawn at. */
  refined(ms: number, now: number): void {
    const fits = LADDER.findIndex((one) => ms * cost(one) <= this.allowed);
    // On the way up again what was measured while it moved counts, not a forecast.
    if (this.lowered && fits >= 0 && fits <= this.at) return;
    this.at = fits < 0 ? LADDER.length - 1 : fits;
    this.changedAt = now;
  }

  /** A frame of a moving picture took `ms`, from its start until the graphics processor had finished. */
  took(ms: number, now: number, moving: boolean): void {
    this.frames = [...this.frames.filter((frame) => now - frame.ended < WINDOW_MS), { ended: now, ms }];
    this.rest(ms, now);
    if (this.wish.step !== "auto" || !moving) return;
    const here = LADDER[this.at] as Rung;
    // Only frames of the rung as it is now tell of it.
    const times = this.frames.filter((frame) => frame.ended - frame.ms >= this.changedAt).map((frame) => frame.ms);
    if (!times.length) return;
    const median = times.sort((a, b) => a - b)[times.length >> 1] ?? ms;
    const forecast = (rung: number) => (median * cost(LADDER[rung] as Rung)) / cost(here);
    if (median > this.allowed && this.at < LADDER.length - 1) {
      const fits = LADDER.findIndex((_, rung) => rung > this.at && forecast(rung) <= this.allowed);
      this.lowered = true;
      this.go(fits < 0 ? LADDER.length - 1 : fits, now);
    } else if (this.at > 0 && now - this.changedAt >= SETTLE_MS && forecast(this.at - 1) < this.allowed * ROOM) this.go(this.at - 1, now);
  }

  private go(rung: number, now: number): void {
    this.at = rung;
    this.changedAt = now;
  }

  /** Leave the graphics processor free for its share of the time after `ms` of work. */
  rest(ms: number, now: number): void {
    this.restUntil = now + Math.min(ms * (1 / Math.max(this.wish.cap, 0.1) - 1), REST_MOST_MS) * (ms > 4 ? 1 : 0);
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
