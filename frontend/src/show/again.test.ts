import { expect, it } from "vitest";
import { oneAtATime } from "./again";

it("does one at a time, and once more after for all that asked meanwhile, also after a failure", async () => {
  const done: string[] = [];
  let free = (): void => undefined;
  let state = "a";
  const ask = oneAtATime(async () => {
    const mine = state;
    await new Promise<void>((resolve) => (free = resolve));
    done.push(mine);
    if (mine === "c") throw new Error("no");
  });
  const first = ask();
  state = "b";
  void ask();
  state = "c";
  void ask();
  free();
  await Promise.resolve().then(() => undefined).then(() => undefined);
  expect(done).toEqual(["a"]);
  free();
  await expect(first).rejects.toThrow("no");
  expect(done).toEqual(["a", "c"]);
  state = "d";
  const last = ask();
  free();
  await last;
  expect(done).toEqual(["a", "c", "d"]);
});

it("loses nothing that is asked for in the moment in which it ends", async () => {
  for (let moments = 0; moments < 8; moments += 1) {
    const done: string[] = [];
    let state = "a";
    const ask = oneAtATime(async () => {
      await Promise.resolve();
      done.push(state);
    });
    void ask();
    for (let i = 0; i < moments; i += 1) await Promise.resolve();
    state = "b";
    void ask();
    await new Promise((resolve) => setTimeout(resolve));
    expect(done.at(-1)).toBe("b");
  }
});
