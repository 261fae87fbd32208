import { type ChangeEvent, useEffect, useRef, useState } from "react";

/** How long after the last key a slider that is moved by keys is let go. */
const KEYS_MS = 400;

/**
 * A value that is dragged: `onMove` while it moves, `onChange` once, when it is let go. By keys it is let go a moment
 * after the last one. `on` gives what an input needs.
 */
export function useDragged<T extends number | string>(value: T, onMove: ((value: T) => void) | undefined, onChange: (value: T) => void) {
  const [moving, setMoving] = useState<T | null>(null);
  const now = useRef<T | null>(null);
  const timer = useRef(0);
  const end = useRef(onChange);
  useEffect(() => {
    end.current = onChange;
  });
  const letGo = () => {
    window.clearTimeout(timer.current);
    const last = now.current;
    now.current = null;
    setMoving(null);
    if (last !== null) end.current(last);
  };
  // What is still held when it goes from the screen is not lost.
  useEffect(() => letGo, []);
  const pressed = useRef(false);
  return {
    value: moving ?? value,
    on: (read: (text: string) => T) => ({
      onPointerDown: () => {
        pressed.current = true;
      },
      onChange: (event: ChangeEvent<HTMLInputElement>) => {
        const to = read(event.target.value);
        now.current = to;
        setMoving(to);
        onMove?.(to);
        window.clearTimeout(timer.current);
        if (!pressed.current) timer.current = window.setTimeout(letGo, KEYS_MS);
      },
      onPointerUp: () => {
        pressed.current = false;
        letGo();
      },
      onPointerCancel: () => {
        pressed.current = false;
        letGo();
      },
      onBlur: () => {
        pressed.current = false;
        letGo();
      },
    }),
  };
}
