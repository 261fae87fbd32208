import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Section } from "../../kit/controls";
import { BodyFields } from "../../show/BodyFields";
import { keptCarriers, settings, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { angle, coordinate, many } from "../../show/format";
import { lookName, looksInOrder, SORTS, type Sort, useLooks } from "../../show/looks";
import { useChosenFixtures } from "../../show/fixtures";
import { standingOf } from "../../show/notes";
import { seeReview, useReview } from "../../show/review";
import type { Thing } from "../../show/types";
import { beginBlind } from "./Blind";
import { Differences, Says } from "./Says";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** The look that is chosen: what it is called, what it says, and what is done with it. */
export function Chosen({ look, order }: { look: Thing<"look">; order: Thing<"order"> | undefined }) {
  const objects = useShow((state) => state.objects);
  const show = settings(objects);
  const [more, setMore] = useState(false);
  const name = look.body.name;
  return (
    <>
      <Section title={`Look ${look.body.number}`}>
        <BodyFields ids={[look.id]} />
        <Carriers look={look.body} />
        <Said look={look.id} />
        <Action look="main" mb="6px" onClick={() => quietly(edit("play look", { id: look.id }))}>
          {show.playing === look.id && show.look_first ? "Recall it again" : "Recall it"}
        </Action>
        <Flex gap="6px" mb="6px" wrap="wrap">
          <Action flex="1" title="Only what is unlike what it says" onClick={() => quietly(edit("update look", { id: look.id, changed: true }))}>Update what changed</Action>
          <Action flex="1" title={`Keep all of this picture in ${name}`} onClick={() => quietly(edit("update look", { id: look.id }))}>Keep all anew</Action>
          <Action flex="1" title="Change it in a pane of its own while the picture plays on" onClick={() => quietly(beginBlind(look.id))}>Edit it blind</Action>
        </Flex>
        <Flex gap="4px" wrap="wrap">
          {order && <Action look="quiet" height="24px" onClick={() => quietly(edit("add steps", { id: order.id, looks: [look.id] }))}>Put it into {order.body.name}</Action>}
          <Action look="quiet" height="24px" aria-expanded={more} onClick={() => setMore(!more)}>{more ? "Less" : "Parts, copies, picture"}</Action>
          <Action look="quiet" height="24px" onClick={() => quietly(edit("remove", { ids: [look.id] }).then(() => useLooks.setState({ look: "" })))}>
            Remove {name}
          </Action>
        </Flex>
      </Section>
      {more && <More look={look} />}
      <Says look={look} />
      <Differences look={look} />
    </>
  );
}

/** What was said of it in a review: one click away. */
function Said({ look }: { look: string }) {
  const objects = useShow((state) => state.objects);
  const notes = things(objects, "note");
  const own = notes.filter((one) => one.body.about === look && !one.body.verdict);
  const { agreed, notYet } = standingOf(notes, look);
  if (!own.length && !agreed.length && !notYet.length) return null;
  const see = () => {
    useReview.setState({ note: own[0]?.id ?? "" });
    seeReview("notes");
  };
  return (
    <Flex align="center" fontSize="12px" mb="6px" gap="8px">
      <Box flex="1" minWidth="0">
        {agreed.length > 0 && <Box color="verdigris">agreed: {agreed.join(", ")}</Box>}
        {notYet.length > 0 && <Box color="ember">not yet: {notYet.join(", ")}</Box>}
      </Box>
      {own.length > 0 && <Action look="quiet" height="22px" onClick={see}>{many(own.length, "note")}</Action>}
    </Flex>
  );
}

/** What it is made of, what is copied from it, and where its picture is taken from. */
function More({ look }: { look: Thing<"look"> }) {
  const objects = useShow((state) => state.objects);
  const chosen = useChosenFixtures();
  const others = looksInOrder(objects).filter((one) => one.id !== look.id);
  const parts = look.body.parts ?? [];
  const [sort, setSort] = useState<Sort | "">("");
  const options = [{ value: "", label: "choose a look" }, ...others.map((one) => ({ value: one.id, label: lookName(one) }))];
  const setParts = (to: string[]) => quietly(edit("set parts", { id: look.id, parts: to }));
  const viewpoints = things(objects, "viewpoint");
  return (
    <Section title="Parts and copies">
      {parts.map((part, i) => (
        <Flex key={part} fontSize="12px" align="center">
          <Box flex="1" truncate>{i + 1}. {lookName(thing(objects, part, "look"))}</Box>
          {i > 0 && <Action look="quiet" height="20px" aria-label={`${lookName(thing(objects, part, "look"))} further down`} onClick={() => setParts(parts.map((one, k) => (k === i - 1 ? part : k === i ? (parts[i - 1] as string) : one)))}>lower</Action>}
          <Action look="quiet" height="20px" aria-label={`Without ${lookName(thing(objects, part, "look"))}`} onClick={() => setParts(parts.filter((one) => one !== part))}>out</Action>
        </Flex>
      ))}
      <Choice label="Made of" value="" options={options.filter((one) => !parts.includes(one.value))} onChange={(id) => id && setParts([...parts, id])} />
      <Choice label="Copy" value={sort} options={[{ value: "", label: "all that it says" }, ...SORTS.map((one) => ({ value: one, label: `its ${one}` }))]} onChange={setSort} />
      <Choice label={chosen.length ? `of ${many(chosen.length, "fixture")} to` : "to"} value="" options={options} onChange={(id) => id && quietly(edit("copy parts", { id: look.id, to: [id], ids: chosen.map((one) => one.id), sorts: sort ? [sort] : [] }))} />
      <Choice label="Picture" value={look.body.viewpoint ?? ""} options={[{ value: "", label: "from the house" }, ...viewpoints.map((one) => ({ value: one.id, label: `from ${one.body.name}` }))]} onChange={(viewpoint) => quietly(edit("see look from", { ids: [look.id], viewpoint: viewpoint || null }))} />
      {chosen.length > 0 && <Action look="quiet" height="24px" onClick={() => quietly(edit("take out", { ids: chosen.map((one) => one.id) }))}>Take {many(chosen.length, "fixture")} out of all looks</Action>}
    </Section>
  );
}

/** Where a look has the carriers; recalling it brings them there. */
function Carriers({ look }: { look: Thing<"look">["body"] }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const kept = keptCarriers(objects, look);
  if (!kept.length) return null;
  return (
    <Box mb="8px" fontSize="12px" aria-label="Carriers of the look" role="region">
      {kept.map(({ id, name, place: [, , z, turn], there }) => (
        <Flex key={id} justify="space-between" color={there ? "dim" : "text"}>
          <Box>{name}</Box>
          <Box fontFamily="mono">{coordinate(z, "z", system)}{turn ? `, ${angle(turn)}` : ""}{there ? "" : " ←"}</Box>
        </Flex>
      ))}
      <Box color="faint" fontSize="11px">Recalling the look brings carriers there (←: they stand elsewhere now).</Box>
    </Box>
  );
}
