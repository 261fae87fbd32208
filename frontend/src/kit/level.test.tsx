// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { drawn } from "../testing/drawn";
import { Level } from "./controls";

const slider = (): HTMLInputElement => screen.getByLabelText("Intensity");

describe("a slider", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it("says each value while it is dragged, and one when it is let go", () => {
    const [moved, changed] = [vi.fn(), vi.fn()];
    drawn(<Level label="Intensity" value={0.2} onMove={moved} onChange={changed} />);
    fireEvent.pointerDown(slider());
    for (let value = 21; value <= 80; value++) fireEvent.change(slider(), { target: { value } });
    expect(moved).toHaveBeenCalledTimes(60);
    expect(changed).not.toHaveBeenCalled();
    // What the show has is 20 % still: the slider stands where it is held.
    expect(slider().value).toBe("80");
    vi.advanceTimersByTime(5000);
    expect(changed).not.toHaveBeenCalled();
    fireEvent.pointerUp(slider());
    expect(changed.mock.calls).toEqual([[0.8]]);
  });

  it("by keys is let go a moment after the last one, and when it is left", () => {
    const changed = vi.fn();
    drawn(<Level label="Intensity" value={0.2} onChange={changed} />);
    for (const value of [21, 22, 23]) fireEvent.change(slider(), { target: { value } });
    vi.advanceTimersByTime(300);
    expect(changed).not.toHaveBeenCalled();
    vi.advanceTimersByTime(200);
    expect(changed.mock.calls).toEqual([[0.23]]);
    fireEvent.change(slider(), { target: { value: 50 } });
    fireEvent.blur(slider());
    expect(changed.mock.calls).toEqual([[0.23], [0.5]]);
  });

  it("that is pressed and not moved changes nothing; one that goes from the screen is not lost", () => {
    const changed = vi.fn();
    const { unmount } = drawn(<Level label="Intensity" value={0.2} onChange={changed} />);
    fireEvent.pointerDown(slider());
    fireEvent.pointerUp(slider());
    expect(changed).not.toHaveBeenCalled();
    fireEvent.pointerDown(slider());
    fireEvent.change(slider(), { target: { value: 90 } });
    unmount();
    expect(changed.mock.calls).toEqual([[0.9]]);
  });
});
