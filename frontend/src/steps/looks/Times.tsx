import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Field, Section, Sign } from "../../kit/controls";
import { thing, useShow } from "../../show/document";
import { edit, repair } from "../../show/edits";
import { many } from "../../show/format";
import { lookName, SORTS, type Sort, useLooks } from "../../show/looks";
import type { MoveSeen, OrderTimes, Thing } from "../../show/types";
import { playFrom } from "./Transport";
import { secondsText, type Step, timeOf } from "./times";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);
const cap = (text: string): string => (text[0] ?? "").toUpperCase() + text.slice(1);

/** The times of the chosen steps, what of heads is seen in them, and what is done with them. */
export function Times({ order, steps, times }: { order: Thing<"order">; steps: Step[]; times: OrderTimes }) {
  const objects = useShow((state) => state.objects);
  const [own, setOwn] = useState<Sort | "">("");
  const first = steps[0];
  if (!first) return null;
  const keys = steps.map((step) => step.key);
  const set = (args: Record<string, unknown>) => edit("set step", { id: order.id, steps: keys, ...args }, { quiet: true });
  const same = (value: (step: Step) => string) => (steps.every((step) => value(step) === value(first)) ? value(first) : "");
  const text = (read: (step: Step) => number | null | undefined) => same((step) => { const value = read(step); return value == null ? "" : secondsText(value); });
  const place = (order.body.steps ?? []).findIndex((step) => step.key === first.key) + 1;
  const title = steps.length === 1 ? `Step ${place}: look ${lookName(thing(objects, first.look, "look"))}` : many(steps.length, "step");
  const seen = times.filter((one) => keys.includes(one.key)).flatMap((one) => one.seen.map((move) => ({ move, key: one.key })));
  const withOwn = SORTS.filter((sort) => steps.some((step) => step.times?.[sort]));
  return (
    <Section title={title}>
      <Field label="Fade in" value={text((step) => step.fade_in_s)} hint="seconds" onCommit={(typed) => set({ fade_in: typed })} />
      <Field label="Fade out" value={text((step) => step.fade_out_s)} hint="as fade in" onCommit={(typed) => set({ fade_out: typed })} />
      <Field label="Delay" value={text((step) => step.delay_s)} onCommit={(typed) => set({ delay: typed })} />
      <Field label="Hold" value={text((step) => step.hold_s)} onCommit={(typed) => set({ hold: typed })} />
      <Choice label="Then" value={same((step) => (step.follows ? "follows" : "waits")) as "follows" | "waits"} options={[{ value: "waits", label: "waits for somebody to go on" }, { value: "follows", label: "the next follows by itself" }]} onChange={(value) => quietly(set({ follows: value === "follows" }))} />
      {[...withOwn, ...(own && !withOwn.includes(own) ? [own] : [])].map((sort) => (
        <Box key={sort} role="group" aria-label={`Times of ${sort}`}>
          <Field label={cap(sort)} value={text((step) => (step.times?.[sort] ? timeOf(step, sort)[1] : null))} hint={secondsText(timeOf(first, sort)[1])} onCommit={(typed) => set({ sort, fade_in: typed })} />
          <Field label={`${cap(sort)} after`} value={text((step) => (step.times?.[sort] ? timeOf(step, sort)[0] : null))} hint={secondsText(timeOf(first, sort)[0])} onCommit={(typed) => set({ sort, delay: typed })} />
        </Box>
      ))}
      {withOwn.length < SORTS.length && (
        <Flex gap="4px" mb="6px" align="center" fontSize="11.5px" color="faint">
          A time of its own for
          <chakra.select aria-label="A time of its own for" bg="ink1" color="text" border="1px solid {colors.line}" borderRadius="4px" height="22px" value={own} onChange={(event) => setOwn(event.target.value as Sort | "")} css={{ "& option": { background: "{colors.ink2}" } }}>
            <option value="">nothing more</option>
            {SORTS.filter((sort) => !withOwn.includes(sort)).map((sort) => <option key={sort} value={sort}>{sort}</option>)}
          </chakra.select>
        </Flex>
      )}
      {seen.map(({ move, key }) => <Seen key={`${key} ${move.trouble}`} move={move} />)}
      {steps.some((step) => step.ahead?.length) && (
        <Box fontSize="12px" color="dim" mb="6px">
          {many(new Set(steps.flatMap((step) => step.ahead ?? [])).size, "head")} already in place before it, moved in the dark.{" "}
          <Action look="quiet" height="20px" fontSize="11.5px" onClick={() => quietly(edit("go ahead", { id: order.id, steps: keys, fixtures: [...new Set(steps.flatMap((step) => step.ahead ?? []))], off: true }))}>No longer</Action>
        </Box>
      )}
      <Action look="main" mb="6px" onClick={() => quietly(playFrom(order, place - 1))}>
        Play from step {place}
      </Action>
      <Flex gap="4px" wrap="wrap">
        <Action look="quiet" height="24px" onClick={() => quietly(edit("remove steps", { id: order.id, steps: keys }).then(() => useLooks.setState({ steps: [] })))}>
          Take {steps.length === 1 ? "it" : "them"} out of the order
        </Action>
        {steps.some((step) => step.moves_meant) && <Action look="quiet" height="24px" onClick={() => quietly(set({ moves_meant: false }))}>Moves in the light are not meant</Action>}
      </Flex>
    </Section>
  );
}

/** Heads that are seen to travel, and what mends it. */
function Seen({ move }: { move: MoveSeen }) {
  const late = move.trouble === "late" || move.trouble === "lit on the way" || move.trouble === "still on its way";
  return (
    <Box mb="6px">
      <Sign tone={late ? "wrong" : "attention"}>{move.text}</Sign>
      <Flex gap="4px" wrap="wrap" ml="21px">
        {move.repairs.map((one) => (
          <Action key={one.label} height="22px" fontSize="11.5px" onClick={() => repair(one)}>{one.label}</Action>
        ))}
      </Flex>
    </Box>
  );
}
