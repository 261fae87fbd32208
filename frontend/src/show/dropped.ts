import { useEffect } from "react";
import { create } from "zustand";

/** A file that was dropped on the window for a card that may not be there yet. */
export const useDropped = create<{ file: File | null; use: string }>(() => ({ file: null, use: "" }));

/** Take a dropped file that is for this use, once. */
export function useDroppedFile(use: string, take: (file: File) => void): void {
  const dropped = useDropped();
  useEffect(() => {
    if (!dropped.file || dropped.use !== use) return;
    const { file } = dropped;
    useDropped.setState({ file: null, use: "" });
    take(file);
  });
}
