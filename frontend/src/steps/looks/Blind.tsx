import { Box, Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { Action, Choice, Level, Section, Sign } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { fetchLookPicture } from "../../show/link";
import { useLooks } from "../../show/looks";
import { compare, setPaneCount, setPicture, usePanes } from "../../show/panes";
import type { Thing } from "../../show/types";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** Begin to edit a look blind: it has a pane of its own, beside the picture that plays on. */
export async function beginBlind(look: string): Promise<void> {
  await fetchLookPicture(look);
  compare("live", look);
  useLooks.setState({ blind: look });
}

export function leaveBlind(): void {
  const { blind } = useLooks.getState();
  useLooks.setState({ blind: "" });
  const { panes } = usePanes.getState();
  for (const pane of panes) if (pane.picture === blind) setPicture(pane.id, "live");
  setPaneCount(2);
}

/** The values of the selected fixtures in a look, set while the picture plays on. */
export function Blind({ look }: { look: Thing<"look"> }) {
  const objects = useShow((state) => state.objects);
  const chosen = useChosenFixtures();
  const ids = chosen.map((one) => one.id);
  // Its pane shows it as it has become.
  useEffect(() => void fetchLookPicture(look.id).catch(() => undefined), [look.id, look.rev]);
  const set = (values: Record<string, number>) => edit("set in look", { id: look.id, values: Object.fromEntries(ids.map((id) => [id, values])) }, { quiet: true });
  const links = [...things(objects, "palette").map((one) => ({ value: one.id, label: `${one.body.name} (${one.body.sort})` })), ...things(objects, "focus point").map((one) => ({ value: one.id, label: `${one.body.name} (focus point)` }))];
  return (
    <Section title={`Blind: look ${look.body.number}, ${look.body.name}`}>
      <Sign tone="attention">The picture plays on; the look is in the pane beside it.</Sign>
      {!ids.length && <Box fontSize="12px" color="dim" my="6px">Select fixtures to set them in the look.</Box>}
      {ids.length > 0 && (
        <Box mt="6px">
          <Level label="Intensity" value={0} unset onChange={(value) => quietly(set({ dimmer: value }))} />
          <Choice label="Give" value="" options={[{ value: "", label: links.length ? "a palette or focus point" : "no palette is kept yet" }, ...links]} onChange={(link) => link && quietly(edit("give in look", { id: look.id, ids, link }))} />
          <Flex gap="4px" wrap="wrap" mb="6px">
            <Action height="24px" onClick={() => quietly(edit("take out", { ids, looks: [look.id] }))}>Leave {many(ids.length, "fixture")} alone in it</Action>
            <Action height="24px" onClick={() => quietly(edit("update look", { id: look.id, ids }))}>Keep them as they are seen</Action>
          </Flex>
        </Box>
      )}
      <Action look="main" onClick={leaveBlind}>Done with {look.body.name}</Action>
    </Section>
  );
}
