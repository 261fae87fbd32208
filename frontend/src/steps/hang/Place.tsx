import { Box, chakra, Flex } from "@chakra-ui/react";
import { Bookmark } from "lucide-react";
import { useEffect, useState } from "react";
import { Action, Choice, Foot, Input, Section, Sign } from "../../kit/controls";
import { openLibrary, useShop } from "../../shop/state";
import { thing, things, useShow } from "../../show/document";
import { edit, leaveGhost } from "../../show/edits";
import { letGo, nextNumber, recentTypes, takeInHand, usePut } from "../../show/put";
import { useSelection } from "../../show/selection";
import type { EditArgs } from "../../show/types";
import { usePreview } from "../../show/usePreview";
import { useForm } from "../../show/useForm";

const DRAGGED = "application/x-zarfwright-type";
const SIDES = ["under", "upper", "left", "right"] as const;
const SLOPES = [{ value: "follow", label: "follow the slope" }, { value: "plumb", label: "hang plumb" }] as const;
/** What of the card is in hand while one points, by its name there. */
const IN_HAND: Partial<Record<keyof typeof START, string>> = { type: "type", mode: "mode", side: "side", on_slopes: "slopes", out: "out", drop: "drop", purpose: "purpose" };
const START = {
  structure: "", rail: "lower right", type: "", mode: "", count: "4", step: "", ends: "half a step in", margin: "0", side: "under", on_slopes: "follow", out: "0", drop: "0", clamps: "1",
  first_number: "", purpose: "",
};

/** Put fixtures on the rig: by pointing, one after another, or n along a rail at once. */
export function Place({ placing }: { placing: { current: boolean } }) {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const rails = useShow((state) => state.rails);
  const put = usePut();
  const selected = thing(objects, useSelection((state) => state.selection[0]), "truss")?.id;
  const trusses = things(objects, "truss");
  const recent = recentTypes();
  const favourites = useShop((state) => state.favourites);
  const liked = (id: string) => favourites.includes(types[id]?.type_id ?? "");
  // What was placed lately comes first, then what is liked.
  const rank = (id: string) => recent.indexOf(id) + 1 || (liked(id) ? 50 : 99);
  const typeIds = Object.keys(types).filter((id) => !types[id]?.driver).sort((a, b) => rank(a) - rank(b));
  const form = useForm<typeof START>(START);
  const [ghosted, setGhosted] = useState(false);
  const [reverse, setReverse] = useState(false);
  const [sought, setSought] = useState("");
  const texts = {
    ...form.texts,
    // A selected truss is the one that is meant.
    structure: form.texts.structure || selected || trusses[0]?.id || "",
    type: form.texts.type || typeIds[0] || "",
  };
  const modes = types[texts.type]?.modes ?? [];
  const mode = modes.some((one) => one.name === texts.mode) ? texts.mode : (modes[0]?.name ?? "");
  const lines = rails[texts.structure] ?? [];
  const rail = lines.some((one) => one.name === texts.rail) ? texts.rail : (lines[0]?.name ?? "");
  const args = { ...texts, mode, rail, reverse } as EditArgs["place along rail"];
  usePreview("place along rail", ghosted && !put.on ? args : null, (result) => result.sentence, true);
  useEffect(() => letGo, []);
  if (!typeIds.length) {
    return (
      <Section title="Place fixtures">
        <Sign tone="attention">There is no fixture type in this show: add one first.</Sign>
        <Action onClick={() => openLibrary()}>Types and type shop</Action>
      </Section>
    );
  }
  const type = (field: keyof typeof START) => (typed: string) => {
    form.put(field, typed);
    setGhosted(true);
    const held = IN_HAND[field];
    // What is typed now counts, not what stood there when this was drawn.
    if (put.on && held) takeInHand({ ...hand, [held]: typed, ...(field === "type" ? { mode: types[typed]?.modes[0]?.name ?? "" } : {}) });
  };
  const hand = { type: texts.type, mode, side: texts.side as (typeof SIDES)[number], slopes: texts.on_slopes as "follow" | "plumb", out: texts.out, drop: texts.drop, purpose: texts.purpose };
  const name = types[texts.type]?.name ?? "fixture";
  const wrongAt = (field: "out" | "drop") => form.wrongAt(field) ?? (put.wrong?.field === field ? put.wrong.text : null);
  const place = () =>
    void form.attempt(async () => {
      placing.current = true;
      await edit("place along rail", args, { select: true, quiet: true }).finally(() => (placing.current = false));
      setGhosted(false);
      // The next row begins at its start again.
      setReverse(false);
      leaveGhost();
    });
  const shown = typeIds.filter((id) => `${types[id]?.name} ${types[id]?.maker}`.toLowerCase().includes(sought.toLowerCase())).slice(0, 6);
  return (
    <Section title="Place fixtures">
      {typeIds.length > 1 && (
        <Box mb="8px">
          {typeIds.length > 6 && <chakra.input type="search" aria-label="Find a type" placeholder="Find a type" value={sought} onChange={(event) => setSought(event.target.value)} width="100%" height="24px" px="8px" mb="4px" fontSize="12px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" />}
          <Flex wrap="wrap" gap="4px" role="group" aria-label="Types to drag onto the stage">
            {shown.map((id) => (
              <chakra.button
                key={id} type="button" draggable data-type={types[id]?.name} aria-pressed={id === texts.type} title="Drag it onto the stage, or choose it and point"
                px="8px" height="24px" fontSize="12px" borderRadius="4px" border="1px solid" borderColor={id === texts.type ? "brass" : "line"} color={id === texts.type ? "brass" : "text"} cursor="grab"
                onDragStart={(event) => {
                  event.dataTransfer.setData(DRAGGED, id);
                  event.dataTransfer.effectAllowed = "copy";
                }}
                onClick={() => {
                  form.put("type", id);
                  if (put.on) takeInHand({ ...hand, type: id, mode: types[id]?.modes[0]?.name ?? "" });
                }}
              >
                {types[id]?.name}
                {liked(id) && <Bookmark size={11} fill="currentColor" aria-label="a favourite" style={{ display: "inline", marginLeft: 4 }} />}
              </chakra.button>
            ))}
          </Flex>
        </Box>
      )}
      <Box
        as="form"
        onSubmit={(event) => {
          event.preventDefault();
          place();
        }}
      >
        <Choice label="Type" value={texts.type} onChange={type("type")} options={typeIds.map((id) => ({ value: id, label: `${types[id]?.name}, ${types[id]?.maker}` }))} />
        <Choice label="Mode" value={mode} onChange={type("mode")} options={modes.map((one) => ({ value: one.name, label: `${one.name}, ${one.footprint} slots` }))} />
        <Choice label="Side of rail" value={texts.side} onChange={type("side")} options={SIDES} />
        <Choice label="On slopes" value={texts.on_slopes} onChange={type("on_slopes")} options={SLOPES} />
        <Input label="Arm out by" value={texts.out} onChange={type("out")} wrong={wrongAt("out")} />
        <Input label="Drop pipe" value={texts.drop} onChange={type("drop")} wrong={wrongAt("drop")} />
        <Input label="For" numeric={false} value={texts.purpose} hint="Choir back light" onChange={type("purpose")} />
        <Action look={put.on ? "on" : "plain"} width="100%" mb="4px" aria-pressed={put.on} onClick={() => (put.on ? letGo() : takeInHand({ ...hand, number: texts.first_number || nextNumber() }))}>
          {put.on ? `Pointing: ${name} ${put.number}. Esc leaves` : `Put ${name}s by pointing`}
        </Action>
        {put.wrong && put.wrong.field !== "out" && put.wrong.field !== "drop" && <Sign tone="wrong">{put.wrong.text}</Sign>}
        <Box fontSize="11px" color="faint" mb="10px">{put.on ? "Near a rail it hangs there, else it stands on what is clicked. Ctrl: not in steps of 5 cm." : "Or several at once along a rail:"}</Box>
        {!put.on && trusses.length > 0 && (
          <>
            <Choice label="On" value={texts.structure} onChange={type("structure")} options={trusses.map((one) => ({ value: one.id, label: one.body.name }))} />
            <Choice label="Rail" value={rail} onChange={type("rail")} options={lines.map((one) => ({ value: one.name, label: one.name === one.label ? one.name : `${one.name}: ${one.label}` }))} />
            <Input label="How many" value={texts.count} hint={texts.step.trim() ? "as many as fit" : ""} onChange={type("count")} wrong={form.wrongAt("count")} />
            <Input label="Step" value={texts.step} hint="spread out" onChange={type("step")} wrong={form.wrongAt("step")} />
            {!texts.step.trim() && <Choice label="Ends" value={texts.ends} onChange={type("ends")} options={["half a step in", "on", "margin"]} />}
            {texts.ends === "margin" && <Input label="Margin" value={texts.margin} onChange={type("margin")} wrong={form.wrongAt("margin")} />}
            <Flex gap="6px" align="flex-start">
              <Box flex="1"><Input label="First number" value={texts.first_number} hint="none" onChange={type("first_number")} wrong={form.wrongAt("first_number")} /></Box>
              <Action look={reverse ? "on" : "quiet"} height="26px" aria-pressed={reverse} aria-label="Numbered from the rail's end" title="Numbered from the rail's end" onClick={() => { setReverse(!reverse); setGhosted(true); }}>⇄</Action>
            </Flex>
            {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
            <Foot>
            <Action look="main" type="submit">
              {texts.count.trim() ? `Place ${Number(texts.count) === 1 ? `1 ${name}` : `${texts.count} ${name}s`}` : `Place as many ${name}s as fit`}
            </Action>
            </Foot>
          </>
        )}
        {!put.on && !trusses.length && <Sign tone="attention">There is no truss to hang on: add one in Site, or point at the floor.</Sign>}
      </Box>
    </Section>
  );
}
