import { create } from "zustand";
import { post, sendFile } from "./api";
import { at } from "./document";
import { edit } from "./edits";
import { refused } from "./messages";
import type { PatchCompared, TakenOut } from "./types";

/** A console's list or rig beside the patch: the file, and how it differs; none: none was read. `console`: the one that it was fetched from, by its key. */
export const useCompared = create<{ file: File | null; found: PatchCompared | null; console: string | null }>(() => ({ file: null, found: null, console: null }));

/** A rig that was fetched from a console, beside the patch. */
export function hearCompared(found: PatchCompared, console: string): void {
  useCompared.setState({ file: null, found, console });
}

const KEPT = "patch list columns";

/** What was chosen for lists with these headings before. */
function remembered(columns: string[]): Record<string, number> | null {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Record<string, Record<string, number>>;
    return kept[columns.join("|")] ?? null;
  } catch {
    return null;
  }
}

function remember(columns: string[], mapping: Record<string, number>): void {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Record<string, unknown>;
    localStorage.setItem(KEPT, JSON.stringify({ ...kept, [columns.join("|")]: mapping }));
  } catch {
    // Nothing can be kept here: the columns are chosen anew next time.
  }
}

async function ask(file: File, mapping: Record<string, number> | null): Promise<PatchCompared> {
  const query = mapping ? `?mapping=${encodeURIComponent(JSON.stringify(mapping))}` : "";
  return sendFile("/api/shows/{show}/patch/compare", { show: at().params.path.show }, file, query);
}

/** Read a list and compare it: by the columns that were chosen for such a list before, else as its headings say. */
export async function compareList(file: File): Promise<void> {
  try {
    let found = await ask(file, null);
    const known = remembered(found.columns);
    if (known) found = await ask(file, known);
    useCompared.setState({ file, found, console: null });
  } catch (wrong) {
    refused(wrong);
  }
}

/** Say which column holds a field; null: none does. */
export async function mapColumn(field: string, column: number | null): Promise<void> {
  const { file, found } = useCompared.getState();
  if (!file || !found) return;
  const others = Object.entries(found.mapping).filter(([one]) => one !== field);
  const mapping = Object.fromEntries(column === null ? others : [...others, [field, column] as const]);
  remember(found.columns, mapping);
  try {
    useCompared.setState({ found: await ask(file, mapping) });
  } catch (wrong) {
    refused(wrong);
  }
}

/** Take what the list says of these, as one edit, and compare again. */
export async function takeLines(lines: TakenOut[]): Promise<void> {
  const { file, found } = useCompared.getState();
  try {
    await edit("take patch", { lines }, { quiet: true });
    if (found?.scene) useCompared.setState({ found: await post("/api/shows/{show}/patch/compare/{key}", { params: { path: { ...at().params.path, key: found.scene } } }) });
    else if (file && found) useCompared.setState({ found: await ask(file, found.mapping) });
  } catch (wrong) {
    refused(wrong);
  }
}

export function leaveCompared(): void {
  useCompared.setState({ file: null, found: null, console: null });
}
