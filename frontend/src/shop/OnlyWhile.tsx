import { Flex } from "@chakra-ui/react";
import { Action, Choice, Field } from "../kit/controls";
import { anotherWhile, attributeOf, calledOf, type Channel, type Draft, onlyWhile, type Range, top, withChannel } from "./draft";
import { wordsOf } from "./Modes";
import { type AttributeOut, changeDraft, choose, useShop } from "./state";

const slotsOf = (channel: Channel): string => channel.slots.join("+") || "without a slot";

/** When a range is there, in words: `gobo is 10\u201319 Gobo 1`. */
export function whileWords(channels: readonly Channel[], range: Range, attributes: readonly AttributeOut[]): string {
  const { master } = range;
  if (!master) return "";
  const other = channels.find((one) => calledOf(one) === master.channel);
  if (!other) return `${master.channel} is ${master.low}\u2013${master.high}`;
  const part = other.ranges.find((one) => one.start === master.low && one.end === master.high);
  return `${wordsOf(attributes, attributeOf(other))} is ${master.low}\u2013${master.high}${part?.name ? ` ${part.name}` : ""}`;
}

/** A range that is there only while another channel lies between two values: chosen, changed, and one more added. */
export function OnlyWhile({ draft, m, c, r, range }: { draft: Draft; m: number; c: number; r: number; range: Range }) {
  const attributes = useShop((state) => state.attributes);
  const channels = draft.modes[m]?.channels ?? [];
  const channel = channels[c];
  const others = channels.filter((_, i) => i !== c);
  const { master } = range;
  const other = others.find((one) => calledOf(one) === master?.channel);
  if (!channel || !others.length) return null;
  const put = (what: string, next: Range["master"], all = true) => changeDraft(what, (now) => withChannel(now, m, c, (one) => onlyWhile(one, r, next, all)));
  const first = (one: Channel): NonNullable<Range["master"]> => ({ channel: calledOf(one), function: null, low: one.ranges[0]?.start ?? 0, high: one.ranges[0]?.end ?? top(one) });
  const bound = (key: "low" | "high") => async (text: string) => {
    const value = Number(text);
    if (!master || !other || !Number.isInteger(value) || value < 0 || value > top(other)) throw new Error(`Type a whole number from 0 to ${other ? top(other) : 255}.`);
    await put("Only while", { ...master, function: null, [key]: value });
  };
  const part = other?.ranges.findIndex((one) => one.start === master?.low && one.end === master.high) ?? -1;
  return (
    <>
      <Choice
        label="Only while" value={master ? (other ? String(channels.indexOf(other)) : "gone") : "always"}
        options={[{ value: "always", label: "always there" }, ...(master && !other ? [{ value: "gone", label: master.channel }] : []), ...others.map((one) => ({ value: String(channels.indexOf(one)), label: `${slotsOf(one)} ${wordsOf(attributes, attributeOf(one))}` }))]}
        onChange={(value) => {
          const chosen = channels[Number(value)];
          void put(value === "always" ? "Always there" : "Only while", chosen ? first(chosen) : null);
        }}
      />
      {master && other && (
        <>
          <Choice
            label="is" value={String(part)} options={[...(part < 0 ? [{ value: "-1", label: `${master.low}\u2013${master.high}` }] : []), ...other.ranges.map((one, i) => ({ value: String(i), label: `${one.start}\u2013${one.end} ${one.name || wordsOf(attributes, one.attribute)}` }))]}
            onChange={(value) => {
              const chosen = other.ranges[Number(value)];
              if (chosen) void put("Only while", { ...master, function: null, low: chosen.start, high: chosen.end });
            }}
          />
          <Field label="at least" value={String(master.low)} onCommit={bound("low")} />
          <Field label="at most" value={String(master.high)} onCommit={bound("high")} />
        </>
      )}
      <Flex mb="6px">
        <Action look="quiet" height="24px" onClick={() => {
          const from = other ?? others[0];
          if (from) void changeDraft("Another meaning", (now) => withChannel(now, m, c, (one) => anotherWhile(one, r, first(from)))).then((done) => done && choose(c, channel.ranges.length));
        }}>One more meaning, while …</Action>
      </Flex>
    </>
  );
}
