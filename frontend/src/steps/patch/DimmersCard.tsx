import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action, Field, Input, Section, Sign } from "../../kit/controls";
import { carrySelected, useCarried } from "../../show/carrying";
import { CardHead, Readiness } from "../../show/CardHead";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many, power } from "../../show/format";
import { refused } from "../../show/messages";
import { useSelection } from "../../show/selection";
import type { EditArgs, Thing } from "../../show/types";
import { useForm } from "../../show/useForm";
import { usePatchView } from "./view";

const quietly = (work: Promise<unknown>): void => void work.catch((wrong: unknown) => refused(wrong));

/** Racks and single dimmers, and what is plugged to them. */
export function DimmersCard() {
  const chosen = useChosenFixtures();
  const rack = useSelection((state) => (state.selection.length === 1 ? state.selection[0] : undefined));
  const row = useShow((state) => (rack ? state.objects[rack] : undefined));
  const show = useShow((state) => state.id);
  const carried = useCarried((state) => state.ids.length > 0);
  const ids = chosen.map((one) => one.id);
  const plugged = chosen.filter((one) => one.body.dimmer != null).map((one) => one.id);
  return (
    <>
      <CardHead none="Dimmers" />
      <Section title="Plugged to">
        <Flex direction="column" gap="6px">
          <Action look="main" disabled={!ids.length || carried} title="Then over a dimmer: click puts them there (P)" onClick={carrySelected}>
            {carried ? "Over the dimmers: click one" : `Carry ${many(ids.length, "fixture")} to a dimmer`}
          </Action>
          <Action look="quiet" disabled={!plugged.length} onClick={() => quietly(edit("plug", { ids: plugged, dimmer: "" }))}>
            Unplug {many(plugged.length, "fixture")}
          </Action>
        </Flex>
        <Box color="dim" fontSize="12px" mt="6px">Or drag them, from the stage, the shelf or another dimmer. A lamp takes its dimmer’s address.</Box>
      </Section>
      <Readiness step="patch" />
      <Section title="Racks">
        {row?.kind === "rack" && <RackForm key={row.id} rack={row} />}
        <Action width="100%" onClick={() => quietly(edit("add rack", {}, { select: true }))}>Add a rack</Action>
      </Section>
      <Single />
      <Section title="Lists">
        <chakra.a href={`/api/shows/${show}/papers/circuits.csv`} download color="brass" fontSize="12px" textDecoration="underline">
          Save circuits and dimmers as CSV
        </chakra.a>
      </Section>
    </>
  );
}

function RackForm({ rack: { id, body } }: { rack: Thing<"rack"> }) {
  const set = (args: Omit<EditArgs["set rack"], "id">) => edit("set rack", { id, ...args }, { quiet: true });
  const start = body.universe != null && body.address != null ? `${body.universe}.${String(body.address).padStart(3, "0")}` : "";
  return (
    <Box borderLeft="2px solid" borderColor="verdigris" pl="10px" mb="8px" role="group" aria-label={`What ${body.name} is`}>
      <Field label="Name" numeric={false} value={body.name} onCommit={(name) => set({ name })} />
      <Field label="First dimmer" value={String(body.first)} onCommit={(first) => set({ first })} />
      <Field label="Dimmers" value={String(body.count)} onCommit={(count) => set({ count })} />
      <Field label="Each carries" value={power(body.carries_w ?? 2300)} hint="2.3 kW" onCommit={(carries) => set({ carries })} />
      <Field label="Start at" value={start} hint="1.301" onCommit={(text) => set({ start: text })} />
      <Action height="24px" onClick={() => quietly(edit("remove", { ids: [id] }))}>Remove</Action>
    </Box>
  );
}

/** What some dimmers are that is not so for all of their rack. */
function Single() {
  const dimmers = usePatchView((state) => state.dimmers);
  const form = useForm({ carries: "" });
  const rate = (args: Omit<EditArgs["rate dimmers"], "dimmers">) => void form.attempt(() => edit("rate dimmers", { dimmers, ...args }, { quiet: true }));
  return (
    <Section title="Single dimmers">
      <Input label="Which" value={dimmers} hint="21-24, 30" onChange={(text) => usePatchView.setState({ dimmers: text })} wrong={form.wrongAt("dimmers" as never)} />
      <Input label="Carry" value={form.texts.carries} hint="5 kW" onChange={(text) => form.put("carries", text)} wrong={form.wrongAt("carries")} />
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Flex gap="6px">
        <Action flex="1" height="26px" disabled={!dimmers || !form.texts.carries} onClick={() => rate({ carries: form.texts.carries })}>Set load</Action>
        <Action flex="1" height="26px" disabled={!dimmers} title="On or off: for what dims itself, and fans and motors" onClick={() => rate({ switched: true })}>Steady</Action>
        <Action flex="1" height="26px" disabled={!dimmers} onClick={() => rate({ switched: false })}>Dims</Action>
      </Flex>
    </Section>
  );
}
