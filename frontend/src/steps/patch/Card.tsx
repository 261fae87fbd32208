import { Box, Flex } from "@chakra-ui/react";
import { Action, Input, Section, Sign } from "../../kit/controls";
import { CardHead, Readiness } from "../../show/CardHead";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { useForm } from "../../show/useForm";

export function PatchCard() {
  const chosen = useChosenFixtures();
  const types = useShow((state) => state.types);
  const numbers = useForm({ start: "1", step: "1" });
  const places = useForm({ start: "1.001", gap: "0" });
  const ids = chosen.map((one) => one.id);
  const slots = chosen.reduce((sum, one) => sum + (types[one.body.type]?.modes.find((mode) => mode.name === one.body.mode)?.footprint ?? 0), 0);
  return (
    <>
      <CardHead none="Patch" />
      <Readiness step="patch" />
      <Section title="Channel numbers">
        <Box
          as="form"
          onSubmit={(event) => {
            event.preventDefault();
            void numbers.attempt(() => edit("number", { ids, ...numbers.texts }, { quiet: true }));
          }}
        >
          <Input label="From" value={numbers.texts.start} onChange={(text) => numbers.put("start", text)} wrong={numbers.wrongAt("start")} />
          <Input label="Step" value={numbers.texts.step} onChange={(text) => numbers.put("step", text)} wrong={numbers.wrongAt("step")} />
          {numbers.wrong && <Sign tone="wrong">{numbers.wrong}</Sign>}
          <Action type="submit" width="100%" disabled={!ids.length}>
            Number {many(ids.length, "fixture")}
          </Action>
        </Box>
      </Section>
      <Section title="Addresses in sequence">
        <Box
          as="form"
          onSubmit={(event) => {
            event.preventDefault();
            void places.attempt(() => edit("address", { ids, ...places.texts }, { quiet: true }));
          }}
        >
          <Input label="Start at" hint="2.001" value={places.texts.start} onChange={(text) => places.put("start", text)} wrong={places.wrongAt("start")} />
          <Input label="Gap" value={places.texts.gap} onChange={(text) => places.put("gap", text)} wrong={places.wrongAt("gap")} />
          {places.wrong && <Sign tone="wrong">{places.wrong}</Sign>}
          <Flex direction="column" gap="6px">
            <Action look="main" type="submit" disabled={!ids.length}>
              Address {many(ids.length, "fixture")}
              {slots ? `, ${slots} slots` : ""}
            </Action>
            <Action look="quiet" disabled={!ids.length} onClick={() => void edit("unpatch", { ids }).catch(() => undefined)}>
              Take the addresses away
            </Action>
          </Flex>
        </Box>
      </Section>
    </>
  );
}
