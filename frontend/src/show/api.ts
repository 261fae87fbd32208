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

async function answer(response: Response): Promise<Response> {
  if (response.ok) return response;
  let said: { error?: string; field?: string | null } = {};
  try {
    said = (await response.json()) as typeof said;
  } catch {
    // Not our own answer: a proxy's page, or none at all.
  }
  throw new Refused(said.error ?? `The desk answered ${response.status}: try again.`, said.field ?? null, response.status);
}

async function reach(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new Refused("The desk cannot be reached: see whether the program is still running. Nothing typed is lost.", null, 0);
  }
  return answer(response);
}

export async function getJson<T>(path: string): Promise<T> {
  return (await (await reach(path)).json()) as T;
}

export async function postJson<T>(path: string, body: unknown): Promise<T> {
  const init = { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) };
  return (await (await reach(path, init)).json()) as T;
}

export async function postFile<T>(path: string, file: File): Promise<T> {
  const form = new FormData();
  form.set("file", file);
  return (await (await reach(path, { method: "POST", body: form })).json()) as T;
}

export async function getBytes(path: string): Promise<ArrayBuffer> {
  return (await reach(path)).arrayBuffer();
}
