import { Box, Flex } from "@chakra-ui/react";
import { Action, Input, Level, Section, Sign } from "../../kit/controls";
import { commandConsole, useConsole } from "../../show/console";
import { useForm } from "../../show/useForm";

/** The simulated console: a program of its own that sends what its fixtures do. */
export function Console() {
  const report = useConsole((state) => state.console);
  return (
    <Section title="Simulated console">
      {report?.problem && <Sign tone="wrong">{report.problem}</Sign>}
      {report?.running ? <Playing /> : <Action width="100%" onClick={() => void commandConsole({ do: "start" })}>Start the simulated console</Action>}
    </Section>
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
