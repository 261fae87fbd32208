import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action, FileField, Input, Section, Sign } from "../../kit/controls";
import { carrySelected, useCarried } from "../../show/carrying";
import { compareList } from "../../show/compared";
import { CardHead, Readiness } from "../../show/CardHead";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { useForm } from "../../show/useForm";
import { Breaks } from "./Breaks";
import { DimmersCard } from "./DimmersCard";
import { usePatchView } from "./view";

/** What is done to the patch, or to dimmers while these are looked at. */
export function PatchCard() {
  const dimmers = usePatchView((state) => state.view === "dimmers");
  return dimmers ? <DimmersCard /> : <Addresses />;
}

function Addresses() {
  const chosen = useChosenFixtures();
  const types = useShow((state) => state.types);
  const numbers = useForm({ start: "1", step: "1" });
  const places = useForm({ start: "1.001", gap: "0" });
  const whole = useForm({ universe: "", to: "" });
  const carried = useCarried((state) => state.ids.length > 0);
  const show = useShow((state) => state.id);
  const ids = chosen.map((one) => one.id);
  const slots = chosen.reduce((sum, one) => sum + (types[one.body.type]?.modes.find((mode) => mode.name === one.body.mode)?.footprint ?? 0), 0);
  return (
    <>
      <CardHead none="Patch" />
      <Section title="On the map">
        <Action look="main" width="100%" disabled={!ids.length || carried} title="Then over a slot of the map: click puts them there (P)" onClick={carrySelected}>
          {carried ? "Over the map: click a slot" : `Carry ${many(ids.length, "fixture")} to a slot`}
        </Action>
        <Box color="dim" fontSize="12px" mt="6px">Or drag them: from the stage, the shelf, a strip or a slot to another slot.</Box>
      </Section>
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
            <Action type="submit" disabled={!ids.length}>
              Address {many(ids.length, "fixture")}
              {slots ? `, ${slots} slots` : ""}
            </Action>
            <Action look="quiet" disabled={!ids.length} onClick={() => void edit("unpatch", { ids }).catch(() => undefined)}>
              Take the addresses away
            </Action>
          </Flex>
        </Box>
      </Section>
      <Breaks />
      <Section title="A whole universe">
        <Input label="Universe" value={whole.texts.universe} hint="2" onChange={(text) => whole.put("universe", text)} wrong={whole.wrongAt("universe")} />
        <Input label="Goes to" value={whole.texts.to} hint="5" onChange={(text) => whole.put("to", text)} wrong={whole.wrongAt("to")} />
        {whole.wrong && <Sign tone="wrong">{whole.wrong}</Sign>}
        <Flex gap="6px">
          {[false, true].map((swap) => (
            <Action key={String(swap)} flex="1" disabled={!whole.texts.universe || !whole.texts.to} onClick={() => void whole.attempt(() => edit("move universe", { ...whole.texts, swap }, { quiet: true }))}>
              {swap ? "Swap the two" : "Move it there"}
            </Action>
          ))}
        </Flex>
      </Section>
      <Section title="Lists">
        <FileField label="Compare with the console's list (CSV) or rig (MVR)" accept=".csv,.txt,.tsv,text/csv,.mvr" onFile={(file) => void compareList(file)} />
        <Box color="dim" fontSize="12px" mb="6px">A console's patch as CSV: it is compared first, and taken line by line.</Box>
        <chakra.a href={`/api/shows/${show}/papers/patch.csv`} download color="brass" fontSize="12px" textDecoration="underline">
          Save the patch as CSV
        </chakra.a>
      </Section>
    </>
  );
}
