import { Box, Flex } from "@chakra-ui/react";
import { Action, Input, Level, Section, Sign } from "../../kit/controls";
import { Readiness } from "../../show/CardHead";
import { commandConsole, useConsole } from "../../show/console";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useLink } from "../../show/connection";
import { useForm } from "../../show/useForm";

export function SignalCard() {
  const report = useConsole((state) => state.console);
  const signal = useLink((state) => state.signal);
  const show = useShow((state) => settings(state.objects));
  const held = signal?.universes.filter((one) => one.state === "held") ?? [];
  const live = signal?.universes.filter((one) => one.state === "live") ?? [];
  const dropped = Object.entries(signal?.dropped ?? {});
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          Signal
        </Box>
        <Box color="dim" fontSize="12px">
          Listening for sACN on {signal?.listening ?? "…"}
        </Box>
      </Section>
      <Section title="What comes in">
        {signal?.problem && <Sign tone="wrong">{signal.problem}</Sign>}
        {live.length > 0 && <Sign tone="fine">{live.length === 1 ? "1 universe" : `${live.length} universes`} live.</Sign>}
        {held.map((one) => (
          <Sign key={one.universe} tone="attention">
            Universe {one.universe}: {one.last_source || "the source"} stopped. The last levels are held.
          </Sign>
        ))}
        {!live.length && !held.length && !signal?.problem && <Sign tone="attention">Nothing has been heard yet: start a console, or send sACN to this address.</Sign>}
        {dropped.map(([why, count]) => (
          <Sign key={why} tone="attention">
            {count} packets dropped: {why}.
          </Sign>
        ))}
        {(signal?.kernel_drops ?? 0) > 0 && <Sign tone="wrong">{signal?.kernel_drops} packets were lost in this machine before they could be read.</Sign>}
        <Action
          mt="6px"
          width="100%"
          look={show.follow_console ? "on" : "plain"}
          aria-pressed={show.follow_console}
          onClick={() => void edit("set show", { follow_console: !show.follow_console }).catch(() => undefined)}
        >
          {show.follow_console ? "The console drives the picture" : "Let the console drive the picture"}
        </Action>
      </Section>
      <Readiness step="signal" />
      <Section title="Simulated console">
        {report?.problem && <Sign tone="wrong">{report.problem}</Sign>}
        {report?.running ? <Playing /> : <Action look="main" onClick={() => void commandConsole({ do: "start" })}>Start the simulated console</Action>}
      </Section>
    </>
  );
}

function Playing() {
  const state = useConsole((now) => now.console?.state);
  const form = useForm({ number: "", level: "100" });
  if (!state) return <Sign tone="attention">The console is starting.</Sign>;
  const cue = state.cues.find((one) => one.number === state.cue);
  const set = () =>
    form.attempt(async () => {
      const level = Number(form.texts.level) / 100;
      if (!/^\d+$/.test(form.texts.number.trim())) throw new Error("Type the number of a fixture.");
      if (!(level >= 0 && level <= 1)) throw new Error("Type a level from 0 to 100.");
      await commandConsole({ do: "level", number: Number(form.texts.number), level });
    });
  return (
    <>
      <Box fontSize="12.5px" mb="8px" aria-label="The cue that is on">
        {cue ? `Cue ${cue.number}, ${cue.name}` : "No cue yet"} · {state.fixtures} fixtures
      </Box>
      <Flex gap="6px" mb="10px">
        <Action look={state.playing ? "on" : "plain"} flex="1" aria-pressed={state.playing} onClick={() => void commandConsole({ do: "play" })}>
          Play
        </Action>
        <Action flex="1" onClick={() => void commandConsole({ do: "stop" })}>
          Stop
        </Action>
        <Action flex="1" onClick={() => void commandConsole({ do: "next" })}>
          Next cue
        </Action>
      </Flex>
      <Level label="Grand master" value={state.master} onMove={(level) => void commandConsole({ do: "master", level })} onChange={(level) => void commandConsole({ do: "master", level })} />
      <Box
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          void set();
        }}
      >
        <Input label="Fixture" hint="61" value={form.texts.number} onChange={(text) => form.put("number", text)} />
        <Input label="Level, %" value={form.texts.level} onChange={(text) => form.put("level", text)} />
        {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
        <Flex gap="6px" mb="10px">
          <Action type="submit" flex="1">
            Set the level
          </Action>
          <Action flex="1" disabled={!(form.texts.number.trim() in state.levels)} onClick={() => void commandConsole({ do: "level", number: Number(form.texts.number), level: null })}>
            Let it go
          </Action>
        </Flex>
      </Box>
      <Action width="100%" onClick={() => void commandConsole({ do: "end" })}>
        Shut the console down
      </Action>
    </>
  );
}
