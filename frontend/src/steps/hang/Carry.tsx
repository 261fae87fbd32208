import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { isA } from "../../kinds";
import { Action, Choice, Input, Section, Sign } from "../../kit/controls";
import { BodyFields } from "../../show/BodyFields";
import { Copies } from "../../show/Copies";
import { thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { usePanes } from "../../show/panes";
import { useSelection } from "../../show/selection";
import { useForm } from "../../show/useForm";
import { Drivers } from "./Driver";

/** Carriers: one handle for anything, with a number of its own; what is on it keeps its place when it comes or goes. */
export function Carry() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const form = useForm({ name: "", number: "" });
  const [to, setTo] = useState("");
  const [wrong, setWrong] = useState("");
  const key = selection.join();
  const [refusedFor, setRefusedFor] = useState("");
  const carriers = things(objects, "carrier");
  const chosen = selection.length === 1 ? thing(objects, selection[0], "carrier") : undefined;
  // A driver is on what it moves, and is no load of it.
  const inside = chosen ? Object.values(objects).filter((row) => row.parent === chosen.id && !(row.kind === "fixture" && row.body.drives)) : [];
  const one = selection.length === 1 ? objects[selection[0] ?? ""] : undefined;
  const moved = one && isA(one.kind, "carried") ? one : undefined;
  const free = selection.filter((id) => isA(objects[id]?.kind, "carried"));
  const target = carriers.some((one) => one.id === to) ? to : (carriers[0]?.id ?? "");
  const tell = (work: Promise<unknown>) => {
    setWrong("");
    void work.catch((error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  };
  const pivotAtPointer = () => {
    const { pointer } = usePanes.getState();
    if (chosen && pointer.point) tell(edit("set pivot", { id: chosen.id, position: pointer.point }, { quiet: true }));
  };
  const on = free.filter((id) => objects[id]?.parent);
  return (
    <>
      {chosen && (
        <Section title="The carrier">
          <BodyFields ids={[chosen.id]} />
          <Box fontSize="12px" color="dim" mb="6px">{many(inside.length, "thing")} on it. Its place is its pivot: typed or dragged, all of it goes along.</Box>
          <Flex gap="6px" wrap="wrap">
            <Action look="quiet" height="24px" onClick={pivotAtPointer}>Pivot where the pointer was</Action>
            <Action look="quiet" height="24px" disabled={!inside.length} onClick={() => tell(edit("put on", { ids: inside.map((row) => row.id) }, { quiet: true }))}>Take all off</Action>
            <Action look="quiet" height="24px" onClick={() => tell(edit("remove", { ids: [chosen.id] }, { quiet: true }))}>Remove it, keep the rest</Action>
          </Flex>
        </Section>
      )}
      {moved && <Drivers key={moved.id} of={moved} />}
      {chosen && (
        <Section title="Copies of it, with all on it">
          <Copies ids={[chosen.id]} />
        </Section>
      )}
      <Section title="Make a carrier">
        <Input label="Name" numeric={false} hint={`Carrier ${carriers.length + 1}`} value={form.texts.name} onChange={(text) => form.put("name", text)} />
        <Input label="Its number" hint="none" value={form.texts.number} onChange={(text) => form.put("number", text)} wrong={form.wrongAt("number")} />
        {form.wrong && refusedFor === key && <Sign tone="wrong">{form.wrong}</Sign>}
        <Action look="main" disabled={!free.length} onClick={() => { setRefusedFor(key); void form.attempt(() => edit("make carrier", { ids: free, ...form.texts }, { quiet: true, select: true })); }}>
          Make a carrier of {many(free.length, "thing")}
        </Action>
      </Section>
      {carriers.length > 0 && free.length > 0 && !chosen && (
        <Section title="On and off">
          <Choice label="Carrier" value={target} options={carriers.map((one) => ({ value: one.id, label: one.body.name }))} onChange={setTo} />
          <Flex gap="6px" wrap="wrap">
            <Action height="26px" onClick={() => tell(edit("put on", { ids: free, carrier: target }, { quiet: true }))}>Put {many(free.length, "thing")} on</Action>
            <Action look="quiet" height="26px" disabled={!on.length} onClick={() => tell(edit("put on", { ids: on }, { quiet: true }))}>Take {many(on.length, "thing")} off</Action>
          </Flex>
        </Section>
      )}
      {wrong && <Section><Sign tone="wrong">{wrong}</Sign></Section>}
    </>
  );
}
