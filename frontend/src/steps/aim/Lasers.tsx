import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Choice, Field, FileField, Section, Segments, Sign } from "../../kit/controls";
import { BodyFields } from "../../show/BodyFields";
import { called, settings, thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { drawFile, readZones, runFeed, testLasers, useLasers } from "../../show/lasers";
import type { Thing } from "../../show/types";

const SETTLED_MS = 250;
const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
const FIGURES = [
  { value: "mixed", label: "another on each" }, { value: "circle", label: "circles" }, { value: "sheet", label: "sheets" },
  { value: "waves", label: "waves" }, { value: "fingers", label: "fingers" }, { value: "star", label: "stars" },
] as const;
type Figure = (typeof FIGURES)[number]["value"];

/** Feeds by place, and what each draws. */
function Feeds({ chosen }: { chosen: Thing<"fixture">[] }) {
  const ids = chosen.map((one) => one.id);
  const [first, setFirst] = useState("1");
  const feed = useLasers((state) => state.feed);
  const [figure, setFigure] = useState<Figure>("mixed");
  const show = useShow((state) => state.id);
  const file = chosen.find((one) => one.body.laser?.file);
  return (
    <>
      <BodyFields ids={ids} of="laser" />
      {ids.length > 1 && (
        <>
          <Field label="First feed" value={first} onCommit={(text) => { setFirst(text); return Promise.resolve(); }} />
          <Action width="100%" mb="6px" title="Left to right, top to bottom, as seen from the house" onClick={() => quietly(edit("number feeds", { ids, first }))}>Number {many(ids.length, "feed")} by place</Action>
        </>
      )}
      <chakra.details fontSize="12px" mb="6px">
        <chakra.summary color="dim" cursor="pointer" mb="4px">{file ? `Draws ${file.body.laser?.file_name ?? "a file"}` : "Draw an ILDA file"}</chakra.summary>
        <FileField label="An ILDA file for these lasers" accept=".ild,.ilda" onFile={(one) => void drawFile(ids, one)} />
        {file && (
          <Flex gap="8px" align="center">
            <chakra.a href={`/api/shows/${show}/lasers/${file.id}/file`} download color="brass" textDecoration="underline">Save it</chakra.a>
            <Action look="quiet" height="22px" onClick={() => quietly(edit("draw file", { ids, asset: null }, { quiet: true }))}>Take it off</Action>
          </Flex>
        )}
      </chakra.details>
      <Flex gap="6px" align="end" mb="4px">
        <Box flex="1"><Choice<Figure> label="Simulated feed" value={figure} options={FIGURES} onChange={(next) => { setFigure(next); if (feed?.running) void runFeed(next); }} /></Box>
      </Flex>
      <Action width="100%" mb="4px" onClick={() => void runFeed(feed?.running ? null : figure)}>{feed?.running ? "Stop the simulated feed" : "Play the simulated feed"}</Action>
      {feed?.running && <Box fontSize="11.5px" color="dim">Feeds {feed.feeds}, {feed.rate_hz ? `${feed.rate_hz} frames a second` : "starting"}.</Box>}
      {feed?.problem && <Sign tone="attention">{feed.problem}</Sign>}
    </>
  );
}

/** Test patterns, and one head after the other with its number. */
function Verify({ chosen }: { chosen: Thing<"fixture">[] }) {
  const objects = useShow((state) => state.objects);
  const { testing, alone } = useLasers((state) => state.told);
  const ids = chosen.map((one) => one.id);
  const at = alone ? ids.indexOf(alone) : -1;
  const to = (step: number) => void testLasers([], ids[(at + step + ids.length) % ids.length] ?? null);
  const tests = ids.some((id) => testing.includes(id));
  // Nothing is left on alone when one turns to something else.
  useEffect(() => () => { const { told } = useLasers.getState(); if (told.alone || told.testing.length) void testLasers([], null); }, []);
  if (alone) {
    return (
      <>
        <Sign tone="attention">Laser {called(objects[alone])} alone{at >= 0 ? `, ${at + 1} of ${ids.length}` : ""}: all others are dark.</Sign>
        <Flex gap="6px" mt="6px">
          <Action flex="1" onClick={() => to(-1)}>Before</Action>
          <Action flex="1" onClick={() => to(1)}>Next</Action>
          <Action flex="1" onClick={() => void testLasers([], null)}>Done</Action>
        </Flex>
      </>
    );
  }
  return (
    <Flex gap="6px">
      <Action flex="1" onClick={() => void testLasers(tests ? [] : ids, null)}>{tests ? "Test pattern off" : "Test pattern"}</Action>
      <Action flex="1" onClick={() => void testLasers([], ids[0] ?? null)}>Verify one by one</Action>
    </Flex>
  );
}

/** What these lasers may reach, and the cut. */
function Reach({ chosen }: { chosen: Thing<"fixture">[] }) {
  const objects = useShow((state) => state.objects);
  const zones = useLasers((state) => state.zones);
  const show = settings(objects);
  const look = thing(objects, show.playing ?? undefined, "look");
  const [inLook, setInLook] = useState(false);
  const asked = inLook && look ? look.id : "";
  const ids = chosen.map((one) => one.id);
  useEffect(() => {
    const later = setTimeout(() => void readZones(asked), SETTLED_MS);
    return () => clearTimeout(later);
  }, [objects, asked]);
  useEffect(() => {
    useLasers.setState({ shown: true });
    return () => useLasers.setState({ shown: false });
  }, []);
  const heads = (zones?.heads ?? []).filter((head) => ids.includes(head.id));
  const reached = heads.flatMap((head) => head.crossings.filter((one) => one.over)).toSorted((a, b) => Number(b.what === "people") - Number(a.what === "people"));
  const people = heads.filter((head) => head.draws && head.crossings.some((one) => one.over && one.what === "people")).map((head) => head.id);
  const safe = Math.max(...heads.map((head) => head.safe_m ?? Infinity));
  const limit = show.laser_limit_w_m2 ?? 25;
  const clear = show.laser_clear_m ?? 0.5;
  const number = (text: string) => { const read = Number(text.replace(",", ".")); if (!Number.isFinite(read)) throw new Error(`“${text}” is not a number.`); return read; };
  return (
    <Section title="What they may reach">
      {look && <Segments<"full" | "look"> name="At which power" value={inLook ? "look" : "full"} onChange={(way) => setInLook(way === "look")} options={[{ value: "full", label: "at full" }, { value: "look", label: `in look ${look.body.number ?? ""}` }]} />}
      {reached.slice(0, 6).map((one) => <Box key={one.text} mb="4px"><Sign tone={one.what === "people" ? "wrong" : "attention"}>{one.text}</Sign></Box>)}
      {reached.length > 6 && <Box fontSize="11.5px" color="faint">and {reached.length - 6} more</Box>}
      {zones && reached.length === 0 && <Sign tone="fine">Nobody's eyes, nothing that reflects, and not the open.</Sign>}
      {people.length > 0 && <Action look="main" width="100%" my="6px" onClick={() => quietly(edit("cut zones", { ids: people }))}>Cut {many(people.length, "zone")} clear of people</Action>}
      <chakra.details fontSize="12px">
        <chakra.summary color="dim" cursor="pointer" mb="4px">Limit {limit} W/m², {clear} m from eyes</chakra.summary>
        <Field label="Limit, W/m²" value={String(limit)} onCommit={(text) => edit("set show", { laser_limit_w_m2: number(text) }, { quiet: true })} />
        <Field label="From eyes, m" value={String(clear)} onCommit={(text) => edit("set show", { laser_clear_m: number(text) }, { quiet: true })} />
      </chakra.details>
      {heads.length > 0 && <Box fontSize="11.5px" color="dim" mt="4px">{safe === Infinity ? "A resting beam is nowhere below the limit." : `A resting beam is below the limit from ${Math.ceil(safe)} m on.`}</Box>}
      <Box fontSize="11px" color="faint" mt="4px">{zones?.note}</Box>
    </Section>
  );
}

/** Lasers: their feeds, their zones, the test, and what they may reach. */
export default function Lasers({ chosen }: { chosen: Thing<"fixture">[] }) {
  const ids = chosen.map((one) => one.id);
  const off = chosen.every((one) => one.body.hands?.zone === 0);
  const over = chosen[0]?.body.hands?.["zone mirror"] ?? 0;
  const hold = (values: Record<string, number>) => quietly(edit("hold values", { ids, values }, { quiet: true }));
  return (
    <>
      <Section title={`${many(ids.length, "laser")}: feed`}><Feeds chosen={chosen} /></Section>
      <Section title="Zone">
        <BodyFields ids={ids} of="zone" />
        <chakra.details fontSize="12px" mb="6px">
          <chakra.summary color="dim" cursor="pointer" mb="4px">Keystone and limits</chakra.summary>
          <BodyFields ids={ids} of="zone limits" />
        </chakra.details>
        <Flex gap="6px" mb="6px">
          <Action flex="1" title="Held by hand: a look keeps it" onClick={() => hold({ zone: off ? 1 : 0 })}>{off ? "Switch on" : "Switch off"}</Action>
          <Action flex="1" title="Held by hand: a look keeps it" onClick={() => hold({ "zone mirror": over === 1 ? 0 : 1 })}>{over === 1 ? "Turn back" : "Turn over"}</Action>
        </Flex>
        <Verify chosen={chosen} />
      </Section>
      <Reach chosen={chosen} />
    </>
  );
}
