import { Box, Flex } from "@chakra-ui/react";
import { Action, Section } from "../../kit/controls";
import { settings, thing, useShow } from "../../show/document";
import { pickPlace } from "../../show/drawing";
import { edit } from "../../show/edits";
import { coordinate } from "../../show/format";
import { useSelection } from "../../show/selection";

/** What the selected crowds look at, and what they keep out of. */
export function CrowdWishes() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const crowds = selection.flatMap((id) => thing(objects, id, "crowd") ?? []);
  const first = crowds[0];
  if (!first) return null;
  const ids = crowds.map((one) => one.id);
  const { target, clear } = first.body;
  const { system } = settings(objects);
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  return (
    <Section title="They look at">
      <Box fontSize="12px" color="dim" mb="6px">
        {target ? `${coordinate(target[0], "x", system)}, ${coordinate(target[1], "y", system)}` : "The middle of the stage"}
        {clear?.length ? `, and keep out of ${clear.length === 1 ? "1 thing" : `${clear.length} things`}` : ""}
      </Box>
      <Flex gap="6px" wrap="wrap">
        <Action height="24px" onClick={() => pickPlace((at) => quietly(edit("face crowd", { ids, at })))}>Click what they look at</Action>
        {target && <Action look="quiet" height="24px" onClick={() => quietly(edit("face crowd", { ids }))}>The stage</Action>}
        <Action look="quiet" height="24px" onClick={() => quietly(edit("keep clear", { ids }))}>Keep out of what stands there</Action>
      </Flex>
    </Section>
  );
}
