/** What is worked out from the newest state: one is on its way at a time, and asked for meanwhile it is done once more after. Done is all that was asked for. */
export function oneAtATime(work: () => Promise<void>): () => Promise<void> {
  let working: Promise<void> | null = null;
  let again = false;
  const all = async (): Promise<void> => {
    try {
      while (again) {
        again = false;
        await work();
      }
    } finally {
      // In the same breath as it was seen that nothing more is asked for: who asks a moment later begins anew.
      working = null;
    }
  };
  return () => {
    again = true;
    working ??= all();
    return working;
  };
}
