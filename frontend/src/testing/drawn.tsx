import { ChakraProvider } from "@chakra-ui/react";
import { cleanup, render } from "@testing-library/react";
import type { ReactElement } from "react";
import { afterEach, vi } from "vitest";
import { system } from "../kit/theme";
import type { Row } from "../show/types";

afterEach(cleanup);

/** Something on a page, with the theme, as the application draws it. */
export function drawn(what: ReactElement) {
  return render(<ChakraProvider value={system}>{what}</ChakraProvider>);
}

/** A thing of a show. */
export function row(id: string, kind: string, body: Record<string, unknown> = {}, ord = 0): Row {
  return { id, kind, parent: null, layer: null, ord, rev: 0, body } as unknown as Row;
}

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
