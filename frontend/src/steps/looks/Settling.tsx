import { Box, Flex } from "@chakra-ui/react";
import { Action, Section, Sign } from "../../kit/controls";
import { thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { lookName, turnSettling, useSettling } from "../../show/looks";

/** Keep a look each time the picture settles, while somebody steps through the console's cues; near-doubles are offered together. */
export function Settling() {
  const { on, kept, doubles, problem } = useSettling((state) => state.report);
  const objects = useShow((state) => state.objects);
  const alike = doubles.map((group) => group.filter((id) => id in objects)).filter((group) => group.length > 1);
  const spare = alike.flatMap((group) => group.slice(1));
  return (
    <Section title="From the console, cue by cue">
      <Flex gap="6px" align="center">
        <Action look={on ? "on" : "plain"} aria-pressed={on} onClick={() => void turnSettling(!on)}>
          {on ? "Stop keeping" : "Keep each time it settles"}
        </Action>
        {(on || kept.length > 0) && <Box fontSize="12px" color="dim">{many(kept.length, "look")} kept</Box>}
      </Flex>
      {on && <Box fontSize="12px" color="dim" mt="6px">Step through the cues: what stands for a second is kept, with its time and who sent it.</Box>}
      {problem && <Sign tone="attention">{problem}</Sign>}
      {spare.length > 0 && (
        <Box mt="6px">
          {alike.map((group) => (
            <Sign key={group[0]} tone="attention">Nearly the same: {group.map((id) => lookName(thing(objects, id, "look"))).join("; ")}</Sign>
          ))}
          <Action height="24px" onClick={() => void edit("remove", { ids: spare }).catch(() => undefined)}>Remove {many(spare.length, "near-double")}</Action>
        </Box>
      )}
    </Section>
  );
}
