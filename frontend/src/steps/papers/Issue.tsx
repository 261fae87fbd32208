import { Box, chakra } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Input, Section, Sign } from "../../kit/controls";
import { get } from "../../show/api";
import { at, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { myName } from "../../show/presence";
import { select } from "../../show/selection";
import { useForm } from "../../show/useForm";
import type { IssuedOut } from "../../show/types";

const SOON_MS = 250;
const TOLD = 6;

const today = (): string => {
  const now = new Date();
  return [now.getFullYear(), now.getMonth() + 1, now.getDate()].map((part) => String(part).padStart(2, "0")).join("-");
};

/** What the papers say otherwise than when they were issued; asked for again when something changes. */
function useSince(): IssuedOut | null {
  const objects = useShow((state) => state.objects);
  const [since, setSince] = useState<IssuedOut | null>(null);
  useEffect(() => {
    let here = true;
    const timer = setTimeout(() => void get("/api/shows/{show}/papers/issued", at()).then((found) => here && setSince(found), () => undefined), SOON_MS);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [objects]);
  return since;
}

/** Issue the whole set as a revision, and what has changed since the last one. */
export function Issue({ count }: { count: number }) {
  const since = useSince();
  const issues = useShow((state) => state.objects);
  const form = useForm({ number: "", note: "" });
  const last = things(issues, "issue").at(-1)?.body;
  const changes = since?.changes ?? [];
  const issue = () =>
    form.attempt(() => edit("issue papers", { number: form.texts.number, note: form.texts.note, date: today(), by: myName() })).then((done) => done && form.reset({ number: "", note: "" }));
  return (
    <Section title="Revisions">
      <Box fontSize="12.5px" mb="6px">
        {last ? `Revision ${last.number}${last.date ? `, ${last.date}` : ""}${last.note ? `: ${last.note}` : ""}` : "Not issued yet"}
        {last && <chakra.span color={changes.length ? "ember" : "verdigris"}>. {changes.length ? `${many(changes.length, "thing")} changed since` : "Nothing changed since"}</chakra.span>}
      </Box>
      {changes.slice(0, TOLD).map((one) => <Sign key={one.id} tone="attention" onClick={() => select([one.id])}>{one.text}</Sign>)}
      {changes.length > TOLD && <Box fontSize="12px" color="dim">and {changes.length - TOLD} more, in clouds on the sheets</Box>}
      <Input label="Issue as" value={form.texts.number} numeric={false} hint={count ? "the next one" : "A"} onChange={(text) => form.put("number", text)} wrong={form.wrongAt("number")} />
      <Input label="For" value={form.texts.note} numeric={false} hint="why, for whom" onChange={(text) => form.put("note", text)} wrong={form.wrong} />
      <Action width="100%" onClick={() => void issue()}>Issue the papers</Action>
    </Section>
  );
}
