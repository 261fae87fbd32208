import { Box, Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { Action, Choice, Foot, Input, Section, Sign } from "../../kit/controls";
import { get } from "../../show/api";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useFetched } from "../../show/fetched";
import { length } from "../../show/format";
import { useOnly } from "../../show/selected";
import type { WallFacts } from "../../show/types";
import { useForm } from "../../show/useForm";
import { usePreview } from "../../show/usePreview";
import { usuals } from "../../show/usual";
import { beginOpening, leaveOpening, useOpening } from "./opening";

type Opening = WallFacts["openings"][number];

/** The doors and windows of a wall: listed, cut, changed and filled, each as a ghost before it is taken. */
export function Openings() {
  const wall = useOnly("wall");
  const facts = useFetched(wall?.id ?? null, (show, thing) => get("/api/shows/{show}/walls/{thing}", { params: { path: { show, thing } } }));
  const { wall: held, at } = useOpening();
  const system = useShow((state) => settings(state.objects).system);
  const id = wall?.id;
  // What was in hand of another wall is let go of.
  useEffect(() => () => {
    if (useOpening.getState().wall === id) leaveOpening();
  }, [id]);
  if (!wall || !facts) return null;
  const said = (metres: number) => length(metres, system);
  const on = held === wall.id && (at === null || at < facts.openings.length);
  return (
    <Section title="Doors and windows">
      {facts.openings.map((one, i) => (
        <Action key={i} look="quiet" height="24px" width="100%" mb="4px" aria-pressed={on && at === i} color={on && at === i ? "brass" : undefined} title="Change or fill it" onClick={() => beginOpening(wall.id, i)}>
          <Box as="span" flex="1" textAlign="left">{one.door ? "Door" : "Window"}, {facts.sides[one.side]?.name}</Box>
          <Box as="span" fontFamily="mono" color="dim">{said(one.width_m)} × {said(one.head_m - one.sill_m)}</Box>
        </Action>
      ))}
      {on ? <Held key={`${wall.id} ${at}`} wall={wall.id} at={at} facts={facts} /> : <Action height="26px" onClick={() => beginOpening(wall.id)}>Cut a door or window</Action>}
    </Section>
  );
}

function typed({ side, along_m, width_m, sill_m, head_m }: Opening, said: (metres: number) => string): Record<string, string> {
  return { side: String(side), along: said(along_m), width: said(width_m), sill: said(sill_m), head: said(head_m) };
}

function Held({ wall, at, facts }: { wall: string; at: number | null; facts: WallFacts }) {
  const system = useShow((state) => settings(state.objects).system);
  const said = (metres: number) => length(metres, system);
  const before = at === null ? null : (facts.openings[at] ?? null);
  const half = said((facts.sides[0]?.length_m ?? 0) / 2);
  const form = useForm<Record<string, string>>(before ? typed(before, said) : { ...usuals({ width: "1m", sill: "0", head: "2.1m" }, system), side: "0", along: half });
  const { side: number, along = "", width = "", sill = "", head = "" } = form.texts;
  const side = facts.sides[Number(number)] ?? facts.sides[0];
  const args = { id: wall, side: Number(number), along, width, sill, head };
  const cut = usePreview("cut opening", at === null ? args : null);
  const set = usePreview("set opening", at === null ? null : { ...args, at });
  const { result, wrong } = at === null ? cut : set;
  const take = () => form.attempt(() => (at === null ? edit("cut opening", args, { quiet: true }) : edit("set opening", { ...args, at }, { quiet: true }))).then((done) => done && leaveOpening());
  return (
    <form onSubmit={(event) => { event.preventDefault(); void take(); }}>
      {facts.sides.length > 1 && (
        <Choice label="On the" value={number ?? "0"} options={facts.sides.map((one, i) => ({ value: String(i), label: `${one.name}, ${said(one.length_m)}` }))} onChange={(chosen) => form.put("side", chosen)} />
      )}
      <Input label="Middle at" value={along} onChange={(text) => form.put("along", text)} />
      <Box fontSize="11.5px" color="faint" mt="-3px" mb="6px" textAlign="right">from its {side?.end} end, up to {said(side?.length_m ?? 0)}</Box>
      <Input label="Width" value={width} onChange={(text) => form.put("width", text)} />
      <Input label="Sill" value={sill} onChange={(text) => form.put("sill", text)} />
      <Input label="Head" value={head} onChange={(text) => form.put("head", text)} />
      <Foot>
        {(wrong || form.wrong) && <Sign tone="wrong">{wrong || form.wrong}</Sign>}
        <Action type="submit" look="main" disabled={!result}>{result?.sentence.split(/,? in(?:to)? /)[0] ?? (at === null ? "Cut it" : "Make it so")}</Action>
        <Flex gap="6px">
          {at !== null && <Action look="quiet" height="24px" onClick={() => void edit("fill opening", { id: wall, at }).then(leaveOpening, () => undefined)}>Fill it</Action>}
          <Action look="quiet" height="24px" onClick={leaveOpening}>Leave it</Action>
        </Flex>
      </Foot>
    </form>
  );
}
