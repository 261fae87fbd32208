import { vi } from "vitest";

/** The desk, as far as a test needs it: what it is asked, in order, and what it answers by the end of the path. */
export function desk(answers: Record<string, unknown>) {
  const asked: { path: string; body: Record<string, unknown> | null }[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url).pathname;
    const text = request.method === "POST" ? await request.clone().text() : "";
    asked.push({ path, body: text ? (JSON.parse(text) as Record<string, unknown>) : null });
    const found = Object.entries(answers).find(([end]) => path.endsWith(end));
    return new Response(JSON.stringify(found ? found[1] : { error: "not there", field: null }), { status: found ? 200 : 404 });
  });
  return asked;
}
