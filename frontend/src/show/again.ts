/** What is worked out from the newest state: one is on its way at a time, and asked for meanwhile it is done once more after. */
export function oneAtATime(work: () => Promise<void>): () => Promise<void> {
  let working = false;
  let again = false;
  return async () => {
    again = true;
    if (working) return;
    working = true;
    try {
      while (again) {
        again = false;
        await work();
      }
    } finally {
      working = false;
    }
  };
}
