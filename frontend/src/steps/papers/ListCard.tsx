import { Box, chakra, Flex } from "@chakra-ui/react";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useState } from "react";
import { Action, Choice, Field, Input, Section } from "../../kit/controls";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { coordinate } from "../../show/format";
import { PAPERS } from "../../show/papers";
import { LINK, MAIN } from "./Saving";
import { useList } from "./useList";

/** How a list is arranged, and it as a file. */
export function ListCard({ name }: { name: string }) {
  const show = useShow((state) => state.id);
  const [paper, setPaper] = useState<(typeof PAPERS)[number]>("A4");
  const path = `/api/shows/${show}/schedules/${name}`;
  return (
    <>
      <Section>
        <chakra.a {...MAIN} data-main="" href={`${path}/pdf?paper=${encodeURIComponent(paper)}`} download>Save as PDF</chakra.a>
        <Flex gap="6px" my="6px"><chakra.a {...LINK} href={`${path}/csv`} download>As CSV</chakra.a></Flex>
        <Choice label="PDF on" value={paper} options={PAPERS} onChange={setPaper} />
      </Section>
      {name === "cables" && <Supplies />}
      {name === "instruments" && (
        <Section title="To be cut out">
          <chakra.a {...LINK} mb="6px" href={`/api/shows/${show}/papers/labels.pdf`} download>Labels for bodies</chakra.a>
          <chakra.a {...LINK} href={`/api/shows/${show}/papers/strips.pdf`} download>Strips for structures</chakra.a>
        </Section>
      )}
      <Arrangement name={name} />
      <Others show={show} />
    </>
  );
}

/** Columns, order, groups and filters: kept with the show. */
function Arrangement({ name }: { name: string }) {
  const list = useList(name);
  const kept = useShow((state) => things(state.objects, "list").find((one) => one.body.name === name)?.body);
  if (!list) return null;
  const now = { name, columns: kept?.columns ?? [], order: kept?.order ?? [], group: kept?.group ?? null, only: kept?.only ?? {} };
  const set = (values: Partial<typeof now>) => edit("set list", { ...now, ...values });
  const quietly = (values: Partial<typeof now>) => void set(values).catch(() => undefined);
  const columns = list.columns.concat(list.every.filter((title) => !list.columns.includes(title)));
  const shown = new Set(list.columns);
  const first = now.order[0] ?? "";
  const [filtered = "", words = ""] = Object.entries(now.only)[0] ?? [];
  const move = (title: string, by: number) => {
    const next = [...list.columns];
    const from = next.indexOf(title);
    next.splice(from, 1);
    next.splice(from + by, 0, title);
    quietly({ columns: next });
  };
  const none = { value: "", label: "as it is" };
  return (
    <>
      <Section title="Arranged">
        <Choice label="Sorted by" value={first.replace(/^-/, "")} options={[none, ...list.every.map((title) => ({ value: title, label: title }))]} onChange={(title) => quietly({ order: title ? [title] : [] })} />
        {first && <Choice label="Begins" value={first.startsWith("-") ? "down" : "up"} options={[{ value: "up", label: "with the least" }, { value: "down", label: "with the most" }]} onChange={(way) => quietly({ order: [way === "down" ? `-${first.replace(/^-/, "")}` : first.replace(/^-/, "")] })} />}
        <Choice label="In groups of" value={now.group ?? "\u0000"} options={[{ value: "\u0000", label: "as it is" }, { value: "", label: "none" }, ...list.every.map((title) => ({ value: title, label: title }))]} onChange={(title) => quietly({ group: title === "\u0000" ? null : title })} />
        <Choice label="Only where" value={filtered} options={[{ value: "", label: "all of it" }, ...list.every.map((title) => ({ value: title, label: title }))]} onChange={(title) => quietly({ only: title ? { [title]: words || "?" } : {} })} />
        {filtered && <Field label="says" numeric={false} value={words} onCommit={(text) => set({ only: text.trim() ? { [filtered]: text } : {} })} />}
        {kept && <Action height="24px" onClick={() => void edit("set list", { name }).catch(() => undefined)}>As it is by itself</Action>}
      </Section>
      <Section title="Columns">
        {columns.map((title) => (
          <Flex key={title} align="center" fontSize="12.5px" minHeight="24px">
            <chakra.label display="flex" alignItems="center" gap="7px" flex="1" minWidth="0" cursor="pointer">
              <chakra.input type="checkbox" checked={shown.has(title)} disabled={shown.has(title) && shown.size === 1} accentColor="{colors.brass}" onChange={() => quietly({ columns: shown.has(title) ? list.columns.filter((one) => one !== title) : [...list.columns, title] })} />
              <Box truncate>{title}</Box>
            </chakra.label>
            {shown.has(title) && (
              <>
                <Action look="quiet" height="22px" px="3px" aria-label={`${title} further left`} disabled={list.columns[0] === title} onClick={() => move(title, -1)}><ArrowUp size={13} /></Action>
                <Action look="quiet" height="22px" px="3px" aria-label={`${title} further right`} disabled={list.columns.at(-1) === title} onClick={() => move(title, 1)}><ArrowDown size={13} /></Action>
              </>
            )}
          </Flex>
        ))}
      </Section>
    </>
  );
}

/** Distribution points: where cables begin. */
function Supplies() {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const [place, setPlace] = useState({ x: "", y: "" });
  const supplies = things(objects, "supply");
  return (
    <Section title="Distribution points">
      {supplies.map((one) => (
        <Box key={one.id} mb="8px">
          <Field label="Named" numeric={false} value={one.body.name} onCommit={(name) => edit("set supply", { id: one.id, name })} />
          {(["x", "y", "z"] as const).map((axis, i) => (
            <Field key={axis} label={["Across", "Upstage", "Height"][i] ?? ""} value={coordinate(one.body.position?.[i as 0] ?? 0, axis, system)} onCommit={(text) => edit("set supply", { id: one.id, [axis]: text })} />
          ))}
          <Action look="quiet" height="22px" onClick={() => void edit("remove", { ids: [one.id] }).catch(() => undefined)}>Remove {one.body.name}</Action>
        </Box>
      ))}
      <Input label="Another at" value={place.x} hint="SR 8" onChange={(x) => setPlace({ ...place, x })} />
      <Input label="and" value={place.y} hint="US 9" onChange={(y) => setPlace({ ...place, y })} />
      <Action width="100%" disabled={!place.x.trim() || !place.y.trim()} onClick={() => void edit("add supply", place).then(() => setPlace({ x: "", y: "" }), () => undefined)}>Place a distribution point</Action>
    </Section>
  );
}

/** Lists that programs read. */
function Others({ show }: { show: string }) {
  const files = [["patch.csv", "Save the patch list"], ["hookup.csv", "Save every channel with its slots"], ["orders.csv", "Save the running orders"], ["looks.csv", "Save the looks, function by function"]] as const;
  return (
    <Section title="For consoles and other programs, as CSV">
      {files.map(([file, says]) => <chakra.a key={file} {...LINK} mb="6px" href={`/api/shows/${show}/papers/${file}`} download>{says}</chakra.a>)}
      <Box color="dim" fontSize="12px">The list of every channel names each slot: a console can be patched from it.</Box>
    </Section>
  );
}
