import { create } from "zustand";

/** The opening in hand: of which wall, and which of its openings, or null for one that is to be cut. */
export const useOpening = create<{ wall: string | null; at: number | null }>(() => ({ wall: null, at: null }));

/** Take one in hand: a new one, or one of those of the wall. */
export function beginOpening(wall: string, at: number | null = null): void {
  useOpening.setState({ wall, at });
}

export function leaveOpening(): void {
  useOpening.setState({ wall: null, at: null });
}
