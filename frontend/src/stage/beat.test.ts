import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Beat } from "./beat";

describe("how often the stage looks", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal("window", globalThis);
    const from = Date.now();
    vi.stubGlobal("requestAnimationFrame", (then: (now: number) => void) => setTimeout(() => then(Date.now() - from), 16));
    vi.stubGlobal("cancelAnimationFrame", clearTimeout);
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("at each frame while something goes on, ten times a second at rest, at once when woken, never once stopped", () => {
    let going = true;
    const look = vi.fn(() => going);
    const beat = new Beat(look);
    const looks = (ms: number): number => {
      const before = look.mock.calls.length;
      vi.advanceTimersByTime(ms);
      return look.mock.calls.length - before;
    };
    expect(looks(1000)).toBeGreaterThan(55);
    going = false;
    expect(looks(700)).toBeGreaterThan(30);
    const resting = looks(1000);
    expect(resting).toBeGreaterThan(6);
    expect(resting).toBeLessThan(12);
    beat.wake();
    expect(looks(17)).toBe(1);
    beat.wake();
    going = true;
    expect(looks(500)).toBeGreaterThan(25);
    beat.stop();
    beat.wake();
    expect(looks(1000)).toBe(0);
  });

  it("goes on after a look that fails", () => {
    vi.advanceTimersByTime(10);
    const look = vi.fn((): boolean => {
      throw new Error("no");
    });
    const beat = new Beat(look);
    expect(() => vi.advanceTimersByTime(17)).toThrow("no");
    expect(() => vi.advanceTimersByTime(17)).toThrow("no");
    expect(look).toHaveBeenCalledTimes(2);
    beat.stop();
  });
});
