// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { drawn } from "../testing/drawn";
import { Field } from "./controls";

const field = (): HTMLInputElement => screen.getByLabelText("Length");
const type = (text: string): boolean => fireEvent.change(field(), { target: { value: text } });

describe("the wheel over a field", () => {
  it("turns its value by notches while it has the focus, several at once as one change", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    const turned = vi.fn((_: number) => Promise.resolve());
    drawn(<Field label="Pan" value="10°" onCommit={() => Promise.resolve()} onNotches={turned} />);
    const field = screen.getByLabelText("Pan");
    fireEvent.wheel(field, { deltaY: -100 });
    vi.advanceTimersByTime(500);
    expect(turned).not.toHaveBeenCalled();
    fireEvent.focus(field);
    fireEvent.wheel(field, { deltaY: -100 });
    fireEvent.wheel(field, { deltaY: -100, shiftKey: true });
    fireEvent.wheel(field, { deltaY: 100, ctrlKey: true });
    vi.advanceTimersByTime(500);
    expect(turned.mock.calls).toEqual([[10.9]]);
    vi.useRealTimers();
    turned.mockRejectedValueOnce(new Error("It stops at 110°."));
    fireEvent.wheel(field, { deltaY: 100 });
    await waitFor(() => expect(screen.getByRole("alert").textContent).toBe("It stops at 110°."));
  });
});

describe("a field", () => {
  it("keeps what could not be taken, says why, and gives the value back with Escape", async () => {
    const left = vi.fn();
    drawn(<Field label="Length" value="16.00 m" onCommit={() => Promise.reject(new Error("“sixteen” is not a length"))} onLeave={left} />);
    type("sixteen");
    fireEvent.keyDown(field(), { key: "Enter" });
    expect((await screen.findByRole("alert")).textContent).toBe("“sixteen” is not a length");
    expect(field().value).toBe("sixteen");
    expect(field().getAttribute("aria-invalid")).toBe("true");
    fireEvent.keyDown(field(), { key: "Escape" });
    expect(field().value).toBe("16.00 m");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(left).toHaveBeenCalled();
  });

  it("takes a step once, though it is entered and left, and shows what came of it", async () => {
    let taken: (value: unknown) => void = () => undefined;
    const take = vi.fn(() => new Promise((resolve) => (taken = resolve)));
    const { rerender } = drawn(<Field label="Length" value="0.00 m" onCommit={take} />);
    type("+1.5");
    fireEvent.keyDown(field(), { key: "Enter" });
    fireEvent.blur(field());
    expect(take.mock.calls).toEqual([["+1.5", false]]);
    rerender(<Field label="Length" value="1.50 m" onCommit={take} />);
    // It is typed in still, until it is taken.
    expect(field().value).toBe("+1.5");
    await act(async () => taken(null));
    await waitFor(() => expect(field().value).toBe("1.50 m"));
  });

  it("says each text while it is typed, follows its value when it is not, and takes nothing that is as it was", () => {
    const [typed, take] = [vi.fn(), vi.fn()];
    const { rerender } = drawn(<Field label="Length" value="2.00 m" onType={typed} onCommit={take} />);
    type("2.5");
    expect(typed.mock.calls).toEqual([["2.5", false]]);
    type("2.00 m");
    fireEvent.blur(field());
    expect(take).not.toHaveBeenCalled();
    fireEvent.keyDown(field(), { key: "Escape" });
    rerender(<Field label="Length" value="3.00 m" onType={typed} onCommit={take} />);
    expect(field().value).toBe("3.00 m");
  });
});
