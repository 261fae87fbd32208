import { Box, Flex } from "@chakra-ui/react";
import { Action, Section } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { editAtLength } from "../../show/jobs";

/** How many people the crowds come to, and how few will do for the named viewpoints. */
export function Thinning() {
  const objects = useShow((state) => state.objects);
  const scene = useShow((state) => state.scene);
  const crowds = things(objects, "crowd");
  if (!crowds.length) return null;
  const people = new Set(crowds.map((one) => one.id));
  const shown = Object.keys(scene).filter((id) => people.has(id.split("/")[0] ?? "") && id.includes("/")).length;
  const out = crowds.reduce((sum, one) => sum + (one.body.left_out?.length ?? 0), 0);
  const views = things(objects, "viewpoint").length;
  return (
    <Section title="The crowds">
      <Box fontSize="12px" color="dim" mb="6px">
        {shown} people are drawn{out ? `, ${out} are left out` : ""}. {views ? "Those nobody would miss from the named viewpoints can be left out." : "Name a viewpoint in Review to see how few will do."}
      </Box>
      <Flex gap="6px" wrap="wrap">
        <Action height="24px" disabled={!views} onClick={() => void editAtLength("thin crowds", {}).catch(() => undefined)}>Thin for {views === 1 ? "1 viewpoint" : `${views} viewpoints`}</Action>
        {out > 0 && <Action look="quiet" height="24px" onClick={() => void edit("thin crowds", { all: true }).catch(() => undefined)}>Bring everybody back</Action>}
      </Flex>
    </Section>
  );
}
