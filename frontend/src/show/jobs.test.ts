import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { JobOut } from "./types";

vi.stubGlobal("localStorage", { getItem: () => "me", setItem: () => undefined });
const { desk } = await import("../testing/desk");
const { useShow } = await import("./document");
const { edit, gesture, leaveGhost, useGesture, useGhost } = await import("./edits");
const { editAtLength, hearJobs, previewAtLength, readJobs, useJobs } = await import("./jobs");
const { useMessages } = await import("./messages");

const job = (state: JobOut["state"], more: Partial<JobOut> = {}): JobOut => ({ id: "job-1", who: "me", name: "Thin crowds", of: 2, done: 1, state, problem: "", ...more });
const soon = (what: () => unknown) => vi.waitFor(what, { timeout: 20_000 });
const said = () => useMessages.getState().notices.map((one) => one.text);

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4 });
  useMessages.setState({ notices: [], said: [] });
  useJobs.setState({ jobs: [] });
});
afterEach(() => vi.unstubAllGlobals());

describe("long work", () => {
  it("is begun, waited for, fetched once when it has ended, and its report said", async () => {
    const asked = desk({ "/jobs": { id: "job-1" }, "/jobs/job-1": { job: job("done", { done: 2 }), result: { rev: 5, sentence: "Leave 3 out", report: ["480 of 483 are enough."] } } });
    const done = editAtLength("thin crowds", {});
    await soon(() => expect(asked).toHaveLength(1));
    expect(asked[0]).toMatchObject({ path: "/api/shows/s/jobs", body: { kind: "thin crowds", args: {}, who: "me", preview: false } });
    hearJobs([job("running")]);
    expect(useJobs.getState().jobs).toHaveLength(1);
    hearJobs([job("done", { done: 2 })]);
    hearJobs([job("done", { done: 2 })]);
    await done;
    expect(asked.map((one) => one.path)).toEqual(["/api/shows/s/jobs", "/api/shows/s/jobs/job-1"]);
    expect(useJobs.getState().jobs).toEqual([]);
    expect(said()).toEqual(["480 of 483 are enough."]);
  });

  it("of a visit before this one is said too, and that of others is left to them", async () => {
    const asked = desk({ "/jobs/job-1": { job: job("failed", { problem: "The crowds were changed." }), result: null } });
    hearJobs([job("failed"), job("done", { id: "job-2", who: "another" })]);
    await soon(() => expect(said()).toEqual(["The crowds were changed."]));
    expect(asked).toHaveLength(1);
  });

  it("that another tab has fetched, or that a new start of the program has lost, is not waited for for ever", async () => {
    const asked = desk({ "/jobs": { id: "job-1" } });
    const done = editAtLength("thin crowds", {});
    await soon(() => expect(asked).toHaveLength(1));
    hearJobs([job("done")]);
    await done;
    hearJobs([]);
    expect(said()).toEqual([]);
    const lost = desk({ "/jobs": { id: "job-1" } });
    const never = editAtLength("thin crowds", {});
    await soon(() => expect(lost).toHaveLength(1));
    hearJobs([job("running")]);
    desk({ "/jobs": [] });
    await readJobs();
    await never;
    expect(said()).toEqual([expect.stringContaining("look into the history")]);
  });

  it("that is only looked at is a ghost, and its report is for whoever asked", async () => {
    const asked = desk({ "/jobs": { id: "job-1" }, "/jobs/job-1": { job: job("done"), result: { rev: 4, sentence: "Simplify", report: ["12 of 80."], select: [], ghost: { objects: [], scene: [], mounts: {} } } } });
    const looked = previewAtLength("simplify mesh", { id: "m", triangles: "12" });
    await soon(() => expect(asked[0]?.body).toMatchObject({ kind: "simplify mesh", preview: true }));
    hearJobs([job("done")]);
    expect(await looked).toEqual(["12 of 80."]);
    expect(useGhost.getState().ghost).toMatchObject({ objects: [] });
    expect(said()).toEqual([]);
  });

  it("whose ghost another has taken the place of shows none", async () => {
    desk({ "/jobs": { id: "job-1" }, "/jobs/job-1": { job: job("done"), result: { rev: 4, sentence: "Simplify", report: ["12 of 80."], ghost: { objects: [], scene: [], mounts: {} } } } });
    leaveGhost();
    const looked = previewAtLength("simplify mesh", { id: "m", triangles: "12" });
    leaveGhost();
    hearJobs([job("done")]);
    expect(await looked).toEqual([]);
    expect(useGhost.getState().ghost).toBeNull();
  });

  it("that is over before its beginning is answered is not waited for", async () => {
    desk({ "/jobs": { id: "job-1" }, "/jobs/job-1": { job: job("done"), result: { rev: 5, sentence: "Leave 3 out", report: ["480 of 483 are enough."] } } });
    const answered = globalThis.fetch;
    let letGo: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (letGo = resolve));
    vi.stubGlobal("fetch", async (request: Request) => {
      const answer = await answered(request);
      if (request.method === "POST") await held;
      return answer;
    });
    const done = editAtLength("thin crowds", {});
    hearJobs([job("done")]);
    await soon(() => expect(useJobs.getState().jobs).toEqual([]));
    expect(said()).toEqual([]);
    letGo();
    await done;
    expect(said()).toEqual(["480 of 483 are enough."]);
  });

  it("that cannot begin is refused where it was asked for, and keeps no other's end to itself", async () => {
    desk({ "/jobs/job-1": { job: job("stopped"), result: null } });
    const refusal = editAtLength("thin crowds", {});
    hearJobs([job("stopped")]);
    await expect(refusal).rejects.toThrow("not there");
    await soon(() => expect(said()).toEqual(["Thin crowds: stopped, nothing was changed"]));
  });
});

describe("a gesture", () => {
  it("asks for one picture at a time, the latest next, stores nothing, and ends with its edit", async () => {
    const show = { id: "show", kind: "show", body: { haze_uneven: 0.4 } };
    const asked = desk({ "/edits": { rev: 4, sentence: "Change", ghost: { objects: [show], camera: { ev100: 8 }, scene: [], mounts: {}, bodies: [] } } });
    for (let step = 1; step <= 50; step++) gesture("set show", { haze_uneven: step / 100 });
    await soon(() => expect(useGesture.getState().show?.haze_uneven).toBe(0.4));
    await soon(() => expect(asked.at(-1)?.body?.args).toEqual({ haze_uneven: 0.5 }));
    expect(asked.length).toBeLessThan(5);
    expect(asked.every((one) => one.body?.preview === true && one.body.live === true)).toBe(true);
    await edit("set show", { haze_uneven: 0.5 });
    expect(asked.at(-1)?.body?.preview).toBeUndefined();
    expect(useGesture.getState()).toEqual({ show: null, camera: null });
  });

  it("does not overtake its edit, and is over when that is refused", async () => {
    const show = { id: "show", kind: "show", body: { haze_uneven: 0.4 } };
    const asked = desk({ "/edits": { rev: 4, sentence: "Change", ghost: { objects: [show], camera: { ev100: 8 }, scene: [], mounts: {}, bodies: [] } } });
    const answered = globalThis.fetch;
    let letGo: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (letGo = resolve));
    vi.stubGlobal("fetch", async (request: Request) => {
      const answer = await answered(request);
      await held;
      return answer;
    });
    gesture("set show", { haze_uneven: 0.3 });
    gesture("set show", { haze_uneven: 0.4 });
    await soon(() => expect(asked).toHaveLength(1));
    const refusal = edit("set show", { haze_uneven: 0.4 }, { quiet: true });
    desk({});
    letGo();
    await expect(refusal).rejects.toThrow("not there");
    expect(asked).toHaveLength(1);
    expect(useGesture.getState()).toEqual({ show: null, camera: null });
  });
});
