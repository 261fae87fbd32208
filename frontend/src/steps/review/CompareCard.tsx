import { Box, Flex } from "@chakra-ui/react";
import { Action, Choice, Section, Segments, Sign } from "../../kit/controls";
import { KEPT, keepBefore, leaveCompared, MODES, showCompared, type Side, useCompare } from "../../show/compare";
import { keptCarriers, things, useShow } from "../../show/document";
import { fetchLookPicture } from "../../show/link";
import { lookName, looksInOrder } from "../../show/looks";
import { notify } from "../../show/messages";
import { compare } from "../../show/panes";

/** Two looks, two viewpoints, before and after. */
export function CompareCard() {
  const objects = useShow((state) => state.objects);
  const { left, right, kept, shown, mode, drawing } = useCompare();
  const looks = looksInOrder(objects);
  const viewpoints = things(objects, "viewpoint");
  const options = [{ value: "live", label: "as driven" }, ...(kept ? [{ value: KEPT, label: kept.title }] : []), ...looks.map((look) => ({ value: look.id, label: lookName(look) }))];
  const elsewhere = [...new Set(looks.filter((look) => look.id === left.picture || look.id === right.picture).flatMap((look) => keptCarriers(objects, look.body).filter((one) => !one.there).map((one) => one.name)))];
  const live = left.picture !== KEPT && right.picture !== KEPT && !left.from && !right.from;
  const showBoth = async () => {
    try {
      await Promise.all([left.picture, right.picture].filter((one) => one !== "live").map(fetchLookPicture));
      compare(left.picture, right.picture);
    } catch (wrong) {
      notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
    }
  };
  const side = (label: string, word: string, one: Side, set: (side: Side) => void) => (
    <Box mb="4px">
      <Choice label={label} value={one.picture} options={options} onChange={(picture) => set({ ...one, picture })} />
      {one.picture !== KEPT && <Choice label={`${word} seen from`} value={one.from} options={[{ value: "", label: "where I look from" }, ...viewpoints.map((place) => ({ value: place.id, label: place.body.name }))]} onChange={(from) => set({ ...one, from })} />}
    </Box>
  );
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600} mb="6px">
        Compare
      </Box>
      {side("On the left", "Left", left, (to) => useCompare.setState({ left: to }))}
      {side("On the right", "Right", right, (to) => useCompare.setState({ right: to }))}
      {looks.length === 0 && <Sign tone="attention">There is no look yet: keep one in Looks.</Sign>}
      {elsewhere.length > 0 && <Box fontSize="12px" color="dim" mb="8px">{elsewhere.join(" and ")}: in each picture where its look has {elsewhere.length > 1 ? "them" : "it"}.</Box>}
      {!shown && <Segments name="How to compare" value={mode} options={MODES} onChange={(value) => useCompare.setState({ mode: value })} />}
      <Action look="main" disabled={drawing} onClick={() => void showCompared()}>
        {drawing ? "Drawing both" : shown ? "Draw both again" : "Compare them"}
      </Action>
      <Flex gap="4px" mt="6px" wrap="wrap">
        <Action look="quiet" height="24px" disabled={!live} title="Both in panes of the stage, alive" onClick={() => { leaveCompared(); void showBoth(); }}>
          Show both from here
        </Action>
        <Action look="quiet" height="24px" disabled={drawing} title="A picture of now, to compare with what comes of it" onClick={() => void keepBefore()}>
          Keep this as before
        </Action>
      </Flex>
    </Section>
  );
}
