import { useState } from "react";
import { Refused } from "./api";

/** The typed texts of a form, and which of them was refused. What was typed is never lost. */
export function useForm<T extends Record<string, string>>(start: T) {
  const [texts, setTexts] = useState(start);
  const [wrong, setWrong] = useState<{ field: string | null; text: string } | null>(null);
  return {
    texts,
    put: (field: keyof T, text: string) => {
      setTexts((now) => ({ ...now, [field]: text }));
      setWrong((now) => (now?.field === field ? null : now));
    },
    reset: setTexts,
    wrongAt: (field: keyof T) => (wrong?.field === field ? wrong.text : null),
    wrong: wrong && (wrong.field === null || !(wrong.field in texts)) ? wrong.text : null,
    /** Do something with the texts; a refusal is kept beside its field. */
    attempt: async (act: () => Promise<unknown>): Promise<boolean> => {
      try {
        await act();
        setWrong(null);
        return true;
      } catch (error) {
        setWrong({ field: error instanceof Refused ? error.field : null, text: error instanceof Error ? error.message : String(error) });
        return false;
      }
    },
  };
}
