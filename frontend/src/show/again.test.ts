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
