import { useState } from "react";
import { Action, Choice, Input, Section, Sign } from "../../kit/controls";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import type { EditArgs } from "../../show/types";
import { useForm } from "../../show/useForm";

const KINDS = ["proscenium", "thrust", "black box", "shed", "arena floor"] as const;
const NUMBERS: [string, string][] = [
  ["width", "Room width"], ["depth", "Room depth"], ["eave", "Eave"], ["ridge", "Ridge"], ["stage_width", "Stage width"], ["stage_depth", "Stage depth"], ["stage_height", "Stage height"],
];

/** A show without a venue begins with one: its numbers, else what is usual; all of it is ordinary things then. */
export function Begin() {
  const empty = useShow((state) => (["venue", "wall", "deck", "mesh"] as const).every((kind) => things(state.objects, kind).length === 0));
  const [sized, setSized] = useState(false);
  const [kind, setKind] = useState<(typeof KINDS)[number]>("black box");
  const form = useForm<Record<string, string>>(Object.fromEntries(NUMBERS.map(([field]) => [field, ""])));
  const imperial = useShow((state) => settings(state.objects).system === "imperial");
  if (!empty) return null;
  return (
    <Section title="Begin with a venue">
      <Choice label="Units" value={imperial ? "imperial" : "metric"} options={["metric", "imperial"]} onChange={(system) => void edit("set show", { system }).catch(() => undefined)} />
      <Choice label="Kind" value={kind} options={KINDS} onChange={setKind} />
      <Action look="quiet" height="24px" aria-expanded={sized} onClick={() => setSized(!sized)}>{sized ? "As large as usual" : "Its sizes, if not as usual"}</Action>
      {sized && NUMBERS.map(([field, label]) => (
        <Input key={field} label={label} hint="as usual" value={form.texts[field] ?? ""} wrong={form.wrongAt(field)} onChange={(text) => form.put(field, text)} />
      ))}
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Action look="main" mt="6px" onClick={() => void form.attempt(async () => { await edit("start site", { kind, ...form.texts } as EditArgs["start site"], { quiet: true }); })}>
        Begin with a {kind}
      </Action>
    </Section>
  );
}
