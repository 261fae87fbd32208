import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Input, Section, Segments, Sign } from "../../kit/controls";
import { seeConsole, useConsoles } from "../../show/consoles";
import { press, startSimulated, useSimulated } from "../../show/simulated";
import { useForm } from "../../show/useForm";
import { Touch, Transport } from "./Touch";

/** The simulated consoles: programs of their own that speak to the show over the network only. */
export function SimulatedList() {
  const report = useSimulated((state) => state.report);
  const view = useConsoles((state) => state.view);
  const all = report?.consoles ?? [];
  return (
    <Section title="Simulated consoles">
      {report?.problem && <Sign tone="wrong">{report.problem}</Sign>}
      <Box role="list" aria-label="Simulated consoles that run">
        {all.map((one, at) => {
          const cue = one.state?.cues.find((each) => each.number === one.state?.cue);
          const seen = view?.of === "simulated" && view.key === one.key;
          return (
            <Box key={one.key} role="listitem" mb="6px">
              <Flex gap="6px">
                <Action flex="1" height="24px" look={seen ? "on" : "plain"} minWidth="0" aria-label={`See ${one.name}`} onClick={() => seeConsole(seen ? null : { of: "simulated", key: one.key })}>{one.name}</Action>
                <Action flex="none" height="24px" px="8px" fontSize="11.5px" aria-label={`Shut ${one.name} down`} onClick={() => void press(one.key, { do: "end" })}>Shut down</Action>
              </Flex>
              <Box fontSize="12px" color="dim" aria-label={`The cue of ${one.name}`}>
                {one.state ? `${cue ? `Cue ${cue.number}, ${cue.name}` : "No cue yet"} · ${one.state.fixtures} fixtures` : "It is starting."}
              </Box>
              {one.problem && <Sign tone="wrong">{one.problem}</Sign>}
              {!seen && at === 0 && one.state && one.state.fixtures > 0 && (
                <Box mt="6px">
                  <Transport id={one.key} playing={one.state.playing} />
                  <Touch id={one.key} />
                </Box>
              )}
            </Box>
          );
        })}
      </Box>
      <Starting first={!all.length} />
    </Section>
  );
}

/** With the show's patch at a press; any other way is folded. */
function Starting({ first }: { first: boolean }) {
  const [other, setOther] = useState(false);
  const [patch, setPatch] = useState<"show" | "empty">("empty");
  const [version, setVersion] = useState("1.6");
  const form = useForm({ name: "", sacn: "all", artnet: "", priority: "100" });
  const start = () => form.attempt(async () => {
    const priority = Number(form.texts.priority);
    if (!Number.isInteger(priority) || priority < 0 || priority > 200) throw new Error("Type a priority from 0 to 200.");
    const key = await startSimulated({ name: form.texts.name, patch: patch === "show", sacn: form.texts.sacn, artnet: form.texts.artnet, priority, version });
    if (key) {
      seeConsole({ of: "simulated", key });
      setOther(false);
    }
  });
  const quick = async () => {
    const key = await startSimulated();
    if (key) seeConsole({ of: "simulated", key });
  };
  if (!other) {
    return (
      <Flex gap="6px">
        {first && <Action flex="1" title="With the channel hookup of this show, and a cue list that plays it" onClick={() => void quick()}>Start with this patch</Action>}
        <Action flex="1" onClick={() => setOther(true)}>{first ? "Another way" : "Start another"}</Action>
      </Flex>
    );
  }
  return (
    <Box as="form" role="group" aria-label="A simulated console" onSubmit={(event) => { event.preventDefault(); void start(); }}>
      <Segments name="What it begins with" value={patch} onChange={setPatch} options={[{ value: "empty", label: "Empty", says: "It knows nothing until it is offered a rig" }, { value: "show", label: "This patch", says: "It is given the channel hookup of this show as a list" }]} />
      <Input label="Its name" numeric={false} hint="Simulated console" value={form.texts.name} onChange={(text) => form.put("name", text)} />
      <Input label="sACN universes" numeric={false} hint="none" value={form.texts.sacn} onChange={(text) => form.put("sacn", text)} />
      <Input label="Art-Net universes" numeric={false} hint="none" value={form.texts.artnet} onChange={(text) => form.put("artnet", text)} />
      <Input label="sACN priority" value={form.texts.priority} onChange={(text) => form.put("priority", text)} />
      <Choice label="Speaks MVR" value={version} options={["1.6", "1.5", "1.8", "2.0"]} onChange={setVersion} />
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Flex gap="6px">
        <Action type="submit" look="main" flex="1">Start this console</Action>
        <Action flex="none" onClick={() => setOther(false)}>Leave it</Action>
      </Flex>
    </Box>
  );
}
