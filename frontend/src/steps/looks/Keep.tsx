import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Input, Section, Sign } from "../../kit/controls";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { SORTS, type Sort, useLooks } from "../../show/looks";
import { useForm } from "../../show/useForm";

type What = "all" | "selected" | "held";

/** Keep a new look: all of the picture, or a part of it. */
export function Keep({ open }: { open: boolean }) {
  const form = useForm({ name: "", number: "", note: "" });
  const chosen = useChosenFixtures();
  const [part, setPart] = useState(false);
  const [opened, setOpened] = useState(false);
  const [what, setWhat] = useState<What>("all");
  const [sorts, setSorts] = useState<Sort[]>([...SORTS]);
  const ids = what === "selected" ? chosen.map((one) => one.id) : [];
  const some = part && sorts.length < SORTS.length ? sorts : [];
  const keep = () =>
    form.attempt(async () => {
      const made = await edit("keep look", { ...form.texts, ids: part ? ids : [], sorts: some, what: part && what === "held" ? "held" : "seen" }, { quiet: true });
      useLooks.setState({ look: made.select?.[0] ?? "", steps: [] });
      setOpened(false);
    });
  const whom = !part || what === "all" ? "this picture" : what === "held" ? "what is held by hand" : many(ids.length, "fixture");
  if (!open && !opened) {
    return (
      <Section title="Keep what is seen">
        <Action look="quiet" height="24px" aria-expanded={false} onClick={() => setOpened(true)}>Keep another look</Action>
      </Section>
    );
  }
  return (
    <Section title="Keep what is seen">
      <Box
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          void keep().then((kept) => kept && form.reset({ name: "", number: "", note: "" }));
        }}
      >
        <Input label="Name" numeric={false} hint="Unnamed" value={form.texts.name} onChange={(text) => form.put("name", text)} wrong={form.wrongAt("name")} />
        <Input label="Note" numeric={false} value={form.texts.note} onChange={(text) => form.put("note", text)} />
        {part && (
          <>
            <Input label="Number" hint="the next" value={form.texts.number} onChange={(text) => form.put("number", text)} wrong={form.wrongAt("number")} />
            <Choice
              label="Of" value={what} onChange={setWhat}
              options={[{ value: "all", label: "the whole rig" }, { value: "selected", label: `what is selected (${chosen.length})` }, { value: "held", label: "only what is held by hand" }]}
            />
            <Flex gap="4px" wrap="wrap" mb="8px" role="group" aria-label="What of it">
              {SORTS.map((sort) => (
                <chakra.label key={sort} display="inline-flex" gap="4px" alignItems="center" fontSize="12px" color="dim" cursor="pointer">
                  <chakra.input type="checkbox" accentColor="{colors.brass}" checked={sorts.includes(sort)} onChange={() => setSorts(sorts.includes(sort) ? sorts.filter((one) => one !== sort) : [...sorts, sort])} />
                  {sort}
                </chakra.label>
              ))}
            </Flex>
          </>
        )}
        {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
        <Action look="main" type="submit" disabled={part && (!sorts.length || (what === "selected" && !chosen.length))}>
          Keep {whom} as a look
        </Action>
        <Action look="quiet" height="22px" mt="4px" aria-expanded={part} onClick={() => setPart(!part)}>
          {part ? "All of it, with the next number" : "A part, or a number of its own"}
        </Action>
      </Box>
    </Section>
  );
}
