/** A slice of drawing keeps the graphics processor no longer than this, so that the page stays at hand. */
export const SLICE_MS = 60;
const GUESS_MS = 8;
const BANDS_MOST = 48;
const KEPT = 400;
const LATELY = 12;
/** No pass is thought to take longer: what took so long was something else, such as a program being made ready. */
const MOST_MS = SLICE_MS * BANDS_MOST;

/**
 * How long passes take, learned as they go, so that a picture can be drawn in slices: passes that are long are cut into bands,
 * passes that are short go together.
 */
export class Pace {
  /** Off: every pass is drawn whole, as for pictures that are waited for. */
  sliced = false;
  private readonly cost = new Map<string, number>();
  private asked: string[] = [];
  private due = 0;
  private lately: number[] = [];

  /** Into how many bands a pass is cut. */
  bands(key: string): number {
    if (!this.sliced) return 1;
    return Math.min(Math.max(Math.ceil((this.cost.get(key) ?? GUESS_MS) / SLICE_MS), 1), BANDS_MOST);
  }

  /** A share of a pass was asked of the graphics processor. */
  began(key: string, share: number): void {
    if (!this.sliced) return;
    this.asked.push(key);
    this.due += (this.cost.get(key) ?? GUESS_MS) * share;
  }

  /** Whether enough was asked for to wait for it. */
  get full(): boolean {
    return this.sliced && this.due >= Math.max(SLICE_MS, this.floor) * 0.9;
  }

  /** What every slice took of late, however little was in it: the page's own drawing, and the waiting. */
  private get floor(): number {
    return Math.min(...this.lately, SLICE_MS * 4);
  }

  /** What was asked for took so long in all: all of it by the same factor longer or shorter than thought. */
  took(ms: number): void {
    if (!this.asked.length) return;
    if (this.cost.size > KEPT) this.cost.clear();
    this.lately = [...this.lately.slice(-LATELY), ms];
    const own = Math.max(ms - this.floor, 0.25 * ms);
    const factor = Math.min(Math.max(own / Math.max(this.due, 0.1), 0.2), 4);
    for (const key of new Set(this.asked)) this.cost.set(key, Math.min(Math.max((this.cost.get(key) ?? GUESS_MS) * factor, 0.05), MOST_MS));
    this.asked = [];
    this.due = 0;
  }
}
