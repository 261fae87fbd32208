import { Flex } from "@chakra-ui/react";
import { Action, Input, Sign } from "../../kit/controls";
import { press } from "../../show/simulated";
import { useForm } from "../../show/useForm";

/** A simulated console's cues, played. */
export function Transport({ id, playing }: { id: string; playing: boolean }) {
  return (
    <Flex gap="6px" mb="8px">
      <Action flex="1" height="24px" look={playing ? "on" : "plain"} aria-pressed={playing} onClick={() => void press(id, { do: "play" })}>Play</Action>
      <Action flex="1" height="24px" onClick={() => void press(id, { do: "stop" })}>Stop</Action>
      <Action flex="1" height="24px" onClick={() => void press(id, { do: "next" })}>Next cue</Action>
    </Flex>
  );
}

/** A fixture's level by hand on a simulated console. */
export function Touch({ id }: { id: string }) {
  const form = useForm({ number: "", level: "" });
  const set = (held: boolean) => form.attempt(async () => {
    const level = Number(form.texts.level || "100");
    if (!/^\d+$/.test(form.texts.number.trim())) throw new Error("Type the number of a fixture.");
    if (!(level >= 0 && level <= 100)) throw new Error("Type a level from 0 to 100.");
    await press(id, { do: "level", number: Number(form.texts.number), ...(held ? { level: level / 100 } : {}) });
  });
  return (
    <>
      <Input label="Fixture" hint="61" value={form.texts.number} onChange={(text) => form.put("number", text)} />
      <Input label="Level, %" hint="100" value={form.texts.level} onChange={(text) => form.put("level", text)} />
      {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
      <Flex gap="6px" mb="6px">
        <Action flex="1" onClick={() => void set(true)}>Set the level</Action>
        <Action flex="1" onClick={() => void set(false)}>Let it go</Action>
      </Flex>
    </>
  );
}
