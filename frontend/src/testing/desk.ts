import { vi } from "vitest";
import { useShow } from "../show/document";
import type { EditResult, Row } from "../show/types";

interface Asked {
  path: string;
  body: Record<string, unknown> | null;
}

/** An answer that refuses. */
export class Refusal {
  constructor(
    readonly error: string,
    readonly field: string | null = null,
  ) {}
}

/** The desk, as far as a test needs it: what it is asked, in order, and what it answers by the end of the path, or makes of what it is told, at once or later. */
export function desk(answers: Record<string, unknown>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal("fetch", async (request: Request | string) => {
    const path = new URL(typeof request === "string" ? request : request.url, "http://desk").pathname;
    // A file that is sent is not looked into.
    const text = typeof request !== "string" && request.method === "POST" ? await request.clone().text() : "";
    const body = text ? (JSON.parse(text) as Record<string, unknown>) : null;
    asked.push({ path, body });
    const found = Object.entries(answers).find(([end]) => path.endsWith(end));
    const answer: unknown = await (!found ? new Refusal("not there") : typeof found[1] === "function" ? (found[1] as (told: typeof body) => unknown)(body) : found[1]);
    return new Response(JSON.stringify(answer), { status: !found ? 404 : answer instanceof Refusal ? 400 : 200 });
  });
  return asked;
}

/** What was asked to be done, in order; previews are not. */
export const done = (asked: Asked[]): [unknown, unknown][] => asked.flatMap(({ body }) => (body?.kind && !body.preview ? [[body.kind, body.args]] : []));

/** A thing of the show. */
export function row(id: string, kind: string, body: Record<string, unknown> = {}, ord = 0): Row {
  return { id, kind, parent: null, layer: null, ord, rev: 0, body } as unknown as Row;
}

/** What the desk answers to an edit after which these things are so. */
export function changed(...after: Row[]): EditResult {
  const { rev, objects, camera } = useShow.getState();
  const changes = after.map((one) => ({ before: objects[one.id] ?? null, after: one }));
  const update = {
    event: "update", rev: rev + 1, who: "me", sentence: "Do", changes, camera: camera ?? { ev100: 8, shown_per_cd: 0.003, white: [1, 0, 0, 0, 1, 0, 0, 0, 1] },
    scene: [], mounts: {}, types: null, bodies: null, rails: null, looks: {}, stand: "", counts: {}, findings: [], undo: "Do", redo: null,
  };
  return { rev: rev + 1, sentence: "Do", select: after.map((one) => one.id), report: [], update } as unknown as EditResult;
}

/** What it answers to a look at what an edit would come to. */
export function ghost(report: string[] = [], ...objects: Row[]): EditResult {
  return { rev: useShow.getState().rev, sentence: "Do", select: objects.map((one) => one.id), report, ghost: { objects, scene: [], mounts: {}, bodies: [], camera: null } } as unknown as EditResult;
}
