import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Input, Section, Segments, Sign } from "../../kit/controls";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import type { EditArgs } from "../../show/types";
import { useForm } from "../../show/useForm";
import { usePreview } from "../../show/usePreview";

type What = "number" | "unit" | "dimmer" | "circuit";
type Order = "selection" | "number" | "place" | "rail";

/** Channel and unit numbers, circuits and dimmers, from a start by a step in an order; old and new are seen first. */
export function Numbers() {
  const chosen = useChosenFixtures();
  const form = useForm({ start: "1", step: "1", share: "1" });
  const [what, setWhat] = useState<What>("number");
  const [order, setOrder] = useState<Order>("number");
  const [reverse, setReverse] = useState(false);
  const ids = chosen.map((one) => one.id);
  const args: EditArgs["number"] = { ids, ...form.texts, what, order, reverse };
  const { result } = usePreview("number", ids.length ? args : null);
  const report = result?.report ?? [];
  const will = new Map((result?.ghost?.objects ?? []).map((row) => [row.id, String(row.body[what] ?? "")]));
  const lines = result ? chosen.map((one) => ({ id: one.id, was: String(one.body[what] ?? ""), will: will.get(one.id) ?? "" })) : [];
  return (
    <Section title="Numbers">
      <Segments<What> name="What to number" value={what} onChange={setWhat} options={[{ value: "number", label: "Channel" }, { value: "unit", label: "Unit" }, { value: "circuit", label: "Circuit" }, { value: "dimmer", label: "Dimmer" }]} />
      <Box height="8px" />
      <Input label="From" value={form.texts.start} hint={what === "circuit" ? "A12" : "61"} onChange={(typed) => form.put("start", typed)} wrong={form.wrongAt("start")} />
      <Input label="Step" value={form.texts.step} onChange={(typed) => form.put("step", typed)} wrong={form.wrongAt("step")} />
      {(what === "circuit" || what === "dimmer") && <Input label="On each" value={form.texts.share} onChange={(typed) => form.put("share", typed)} wrong={form.wrongAt("share")} />}
      <Flex gap="6px" align="flex-start">
        <Box flex="1"><Choice<Order> label="Order" value={order} onChange={setOrder} options={[{ value: "number", label: "by number" }, { value: "place", label: "by place" }, { value: "rail", label: "rail by rail" }, { value: "selection", label: "as selected" }]} /></Box>
        <Action look={reverse ? "on" : "quiet"} height="26px" aria-pressed={reverse} aria-label="From the other end" onClick={() => setReverse(!reverse)}>⇄</Action>
      </Flex>
      {lines.length > 0 && (
        <Flex wrap="wrap" columnGap="12px" rowGap="2px" fontFamily="mono" fontSize="11.5px" mb="8px" maxHeight="84px" overflowY="auto" aria-label="Old and new" role="region">
          {lines.map((one) => (
            <Box key={one.id} color={one.was === one.will ? "faint" : "text"}>{one.was || "none"} → <Box as="span" color={one.was === one.will ? "faint" : "brass"}>{one.will}</Box></Box>
          ))}
        </Flex>
      )}
      {report.map((line) => <Sign key={line} tone="attention">{line}</Sign>)}
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Action look="main" disabled={!ids.length} onClick={() => void form.attempt(() => edit("number", args, { quiet: true, tellsItself: true }).then(() => setReverse(false)))}>
        Number {many(ids.length, "fixture")}
      </Action>
    </Section>
  );
}
