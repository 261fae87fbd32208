import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action, Choice, Field, Section, Sign } from "../kit/controls";
import { many } from "../show/format";
import { addFine, attributeOf, type Draft, dropFine, dropRange, meaningOf, meaningsOf, type Range, splitRange, top, withChannel, withMode, withRange } from "./draft";
import { wordsOf } from "./Modes";
import { OnlyWhile, whileWords } from "./OnlyWhile";
import { openReading } from "./reading";
import { changeDraft, choose, repair, useShop } from "./state";

/** The chosen channel: what it does, its ranges by number and meaning, and a place for a manual's text. */
export function ChannelCard({ draft }: { draft: Draft }) {
  const { mode: m, channel: c, range: r, attributes, trial } = useShop();
  const channel = draft.modes[m]?.channels[c];
  if (!channel) return null;
  const attribute = attributeOf(channel);
  const parts = trial?.parts ?? ["Body"];
  const put = (what: string, change: Parameters<typeof withChannel>[3]) => void changeDraft(what, (now) => withChannel(now, m, c, change));
  const spoken = attributes.filter((one) => one.shows || /^(Control|DimmerCurve|Haze|Fan|NoFeature|BlackoutMode)/.test(one.name) || one.name === attribute);
  return (
    <>
      <Section title={`Channel ${channel.slots.join("+") || "without a slot"}`}>
        <Choice
          label="Does" value={attribute} options={spoken.map((one) => ({ value: one.name, label: one.words }))}
          onChange={(name) => {
            const usual = attributes.find((one) => one.name === name);
            put(`Let it do ${wordsOf(attributes, name)}`, (one) => ({
              ...one, key: "", ranges: one.ranges.length > 1 ? one.ranges.map((range) => ({ ...range, attribute: range.attribute === attribute ? name : range.attribute })) : one.ranges.map((range) => ({ ...range, attribute: name, low: usual?.low ?? 0, high: usual?.high ?? 1, slot: null, wheel: null, doubt: "" })),
            }));
          }}
        />
        <Choice label="Drives" value={channel.part} options={[...new Set([...parts, channel.part])]} onChange={(part) => put(`Let it drive ${part}`, (one) => ({ ...one, part }))} />
        <Field label="At home" value={String(channel.home)} onCommit={async (text) => {
          const home = Number(text);
          if (!Number.isInteger(home) || home < 0 || home > top(channel)) throw new Error(`Type a whole number from 0 to ${top(channel)}.`);
          await changeDraft("Value at home", (now) => withChannel(now, m, c, (one) => ({ ...one, home })));
        }} />
        <Choice label="Address" value={String(channel.dmx_break)} options={[{ value: "1", label: "the lamp's own" }, { value: "2", label: "a second one" }, { value: "3", label: "a third one" }]} onChange={(chosen) => {
          const number = Number(chosen);
          void changeDraft("An address of its own", (now) => withMode(now, m, (mode) => {
            const used = mode.channels.filter((one, i) => i !== c && one.dmx_break === number).flatMap((one) => one.slots);
            const first = Math.max(0, ...used) + 1;
            return { ...mode, channels: mode.channels.map((one, i) => (i === c ? { ...one, dmx_break: number, slots: one.slots.map((_, k) => first + k) } : one)) };
          }));
        }} />
        <Flex gap="6px">
          <Action height="24px" disabled={channel.slots.length >= 4} onClick={() => void changeDraft("Add a fine byte", (now) => withMode(now, m, (mode) => ({ ...mode, channels: addFine(mode.channels, c) })))}>Add a fine byte</Action>
          {channel.slots.length > 1 && <Action look="quiet" height="24px" onClick={() => void changeDraft("Take the fine byte away", (now) => withMode(now, m, (mode) => ({ ...mode, channels: dropFine(mode.channels, c) })))}>Take it away</Action>}
          <Action look="quiet" height="24px" onClick={() => void changeDraft("Remove a channel", (now) => withMode(now, m, (mode) => ({ ...mode, channels: mode.channels.filter((_, i) => i !== c) })))}>Remove</Action>
        </Flex>
      </Section>
      <Section title={many(channel.ranges.length, "range")}>
        <Box maxHeight="150px" overflowY="auto" mb="8px">
          {channel.ranges.map((range, i) => (
            <chakra.button
              key={i} type="button" display="flex" width="100%" gap="8px" px="6px" py="2px" borderRadius="4px" fontSize="12px" cursor="pointer" textAlign="left" aria-pressed={i === r} bg={i === r ? "verdigrisDeep" : "transparent"}
              color={range.doubt ? "ember" : "text"} onClick={() => choose(c, i)}
            >
              <Box fontFamily="mono" fontSize="11.5px" color="dim" width="82px" flex="none" textAlign="right">{range.start}–{range.end}</Box>
              <Box overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">{range.doubt ? "◇ " : ""}{range.name || wordsOf(attributes, range.attribute)}{range.master ? ` · while ${whileWords(draft.modes[m]?.channels ?? [], range, attributes)}` : ""}</Box>
            </chakra.button>
          ))}
        </Box>
        {channel.ranges[r] && <RangeForm key={`${m} ${c} ${r}`} draft={draft} m={m} c={c} r={r} range={channel.ranges[r] as Range} />}
      </Section>
      <Section>
        <Action height="24px" onClick={() => openReading(c)}>Read its table from the manual</Action>
      </Section>
    </>
  );
}

function RangeForm({ draft, m, c, r, range }: { draft: Draft; m: number; c: number; r: number; range: Range }) {
  const attributes = useShop((state) => state.attributes);
  const channel = draft.modes[m]?.channels[c];
  if (!channel) return null;
  const family = range.attribute === "NoFeature" ? attributeOf(channel) : range.attribute;
  const usual = attributes.find((one) => one.name === attributeOf(channel)) ?? { low: 0, high: 1 };
  const meanings = meaningsOf(family, draft.wheels, usual);
  const now = meaningOf(range, meanings);
  const unit = attributes.find((one) => one.name === range.attribute)?.unit ?? "";
  const put = (what: string, change: Partial<Range>) => changeDraft(what, (one) => withRange(one, m, c, r, { doubt: "", ...change }));
  const number = (what: string, key: "start" | "end" | "low" | "high", whole: boolean) => async (text: string) => {
    const value = Number(text.replace(",", "."));
    if (!Number.isFinite(value) || (whole && (!Number.isInteger(value) || value < 0 || value > top(channel)))) throw new Error(whole ? `Type a whole number from 0 to ${top(channel)}.` : "Type a number.");
    await put(what, { [key]: value });
  };
  return (
    <>
      {range.doubt && <Sign tone="attention">{range.doubt}</Sign>}
      <Choice label="Means" value={now?.key ?? "other"} options={[...(now ? [] : [{ value: "other", label: wordsOf(attributes, range.attribute) }]), ...meanings.map((one) => ({ value: one.key, label: one.label }))]} onChange={(key) => {
        const meaning = meanings.find((one) => one.key === key);
        if (meaning) void put(`Let it mean ${meaning.label}`, { ...meaning.range, name: meaning.range.name ?? (range.doubt ? range.name : meaning.label) });
      }} />
      <Field label="Called" numeric={false} value={range.name} onCommit={(text) => put("Name a range", { name: text.trim(), doubt: range.doubt })} />
      <Field label="From" value={String(range.start)} onCommit={number("First value", "start", true)} />
      <Field label="To" value={String(range.end)} onCommit={number("Last value", "end", true)} />
      {range.attribute !== "NoFeature" && range.slot === null && (
        <>
          <Field label={`First is${unit && unit !== "share" && unit !== "slot" ? `, ${unit}` : ""}`} value={String(Number(range.low.toFixed(4)))} onCommit={number("Physical value", "low", false)} />
          <Field label={`Last is${unit && unit !== "share" && unit !== "slot" ? `, ${unit}` : ""}`} value={String(Number(range.high.toFixed(4)))} onCommit={number("Physical value", "high", false)} />
        </>
      )}
      <OnlyWhile draft={draft} m={m} c={c} r={r} range={range} />
      <Flex gap="6px">
        <Action height="24px" disabled={range.end <= range.start} onClick={() => void changeDraft("Split a range", (one) => withChannel(one, m, c, (was) => splitRange(was, r)))}>Split</Action>
        <Action look="quiet" height="24px" disabled={channel.ranges.length < 2} onClick={() => void changeDraft("Remove a range", (one) => withChannel(one, m, c, (was) => dropRange(was, r)))}>Remove</Action>
      </Flex>
    </>
  );
}

/** What is wrong or in doubt, each with the button that puts it right. */
export function Checks() {
  const trial = useShop((state) => state.trial);
  const checks = trial?.checks ?? [];
  const able = checks.filter((one) => one.button && !one.asks);
  return (
    <Section title={checks.length ? `${many(checks.length, "thing")} to look at` : "In order"}>
      {!checks.length && <Sign tone="fine">Nothing is wrong with this type.</Sign>}
      <Box maxHeight="190px" overflowY="auto">
        {checks.slice(0, 60).map((one, i) => (
          <Box key={i} mb="4px">
            <Sign tone={one.wrong ? "wrong" : "attention"} onClick={one.channel !== null && one.mode !== null ? () => { useShop.setState({ mode: one.mode ?? 0 }); choose(one.channel ?? 0, one.range ?? 0); } : undefined}>{one.text}</Sign>
            {one.button && <Action look="quiet" height="22px" ml="19px" color="brass" onClick={() => void repair(one)}>{one.button}</Action>}
          </Box>
        ))}
      </Box>
      {able.length > 1 && <Action height="24px" onClick={() => void repair(null)}>Put {able.length} right</Action>}
    </Section>
  );
}
