/** What is worked out from the newest state: one is on its way at a time, and asked for meanwhile it is done once more after. Done is all that was asked for. */
export function oneAtATime(work: () => Promise<void>): () => Promise<void> {
  let working: Promise<void> | null = null;
  let again = false;
  const all = async (): Promise<void> => {
    while (again) {
      again = false;
      await work();
    }
  };
  return () => {
    again = true;
    working ??= all().finally(() => (working = null));
    return working;
  };
}
