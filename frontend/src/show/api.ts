import createClient, { type MaybeOptionalInit } from "openapi-fetch";
import type { PathsWithMethod } from "openapi-typescript-helpers";
import type { paths } from "./api.generated";

/** What the server said was wrong, as the user reads it. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly field: string | null,
    readonly status: number,
  ) {
    super(message);
  }
}

async function required(response: Response): Promise<Response> {
  if (response.ok) return response;
  let said: { error?: string; field?: string | null } = {};
  try {
    said = (await response.json()) as typeof said;
  } catch {
    // Not our own answer: a proxy's page, or none at all.
  }
  throw new Refused(said.error ?? `The desk answered ${response.status}: try again.`, said.field ?? null, response.status);
}

async function reach(request: Request | string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(request, init);
  } catch {
    throw new Refused("The desk cannot be reached: see whether the program is still running. Nothing typed is lost.", null, 0);
  }
  return required(response);
}

const client = createClient<paths>({ baseUrl: globalThis.location?.origin ?? "http://desk", fetch: (request) => reach(request) });

/** What the API answers on a path. */
type Answer<P extends keyof paths, M extends "get" | "post"> = paths[P] extends { [K in M]: { responses: { 200: { content: { "application/json": infer T } } } } } ? T : undefined;
type Init<P extends keyof paths, M extends "get" | "post"> = MaybeOptionalInit<paths[P], M>;
type Given<T> = undefined extends T ? [T?] : [T];

/** Ask the API, typed by its paths: `get("/api/recent")`. Throws Refused. */
export async function get<P extends PathsWithMethod<paths, "get">>(path: P, ...init: Given<Init<P, "get">>): Promise<Answer<P, "get">> {
  return (await client.GET(path, ...(init as never))).data as Answer<P, "get">;
}

/** Tell the API something, typed by its paths. Throws Refused. */
export async function post<P extends PathsWithMethod<paths, "post">>(path: P, ...init: Given<Init<P, "post">>): Promise<Answer<P, "post">> {
  return (await client.POST(path, ...(init as never))).data as Answer<P, "post">;
}

/** The path with its places filled in. */
function filled(path: string, places: Record<string, string>): string {
  return path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(places[name] ?? ""));
}

/** Send a file as the `file` of a form. */
export async function sendFile<P extends keyof paths>(path: P, places: Record<string, string>, file: File, query = ""): Promise<Answer<P, "post">> {
  const form = new FormData();
  form.set("file", file);
  return (await (await reach(filled(path, places) + query, { method: "POST", body: form })).json()) as Answer<P, "post">;
}

/** Ask for a file, telling what it is to be: its bytes, and what it is called. */
export async function fileFor<P extends keyof paths>(path: P, places: Record<string, string>, body: unknown): Promise<{ blob: Blob; name: string }> {
  const response = await reach(filled(path, places), { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
  const name = /filename="?([^";]+)"?/.exec(response.headers.get("Content-Disposition") ?? "")?.[1] ?? "";
  return { blob: await response.blob(), name };
}

/** Keep bytes at a path. */
export async function putBytes(path: string, body: Blob): Promise<void> {
  await reach(path, { method: "PUT", body });
}

/** Bytes: meshes, gobos, frames. */
export async function getBytes(path: string): Promise<ArrayBuffer> {
  return (await reach(path)).arrayBuffer();
}
