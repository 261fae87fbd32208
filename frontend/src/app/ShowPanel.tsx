import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Overlaid } from "../kit/Overlaid";
import { Action, Choice, Field, FileField, Input, Section, Sign } from "../kit/controls";
import { openExchange } from "../exchange/state";
import { get, post, sendFile } from "../show/api";
import { settings, useShow } from "../show/document";
import { edit } from "../show/edits";
import { myName, setMyName } from "../show/presence";
import type { RecentShow } from "../show/types";

const SYSTEMS = [{ value: "metric", label: "metres" }, { value: "imperial", label: "feet and inches" }] as const;
type System = (typeof SYSTEMS)[number]["value"];

/** The show as a file: its name and units, others that were open, a new one, a copy to keep or send. */
export function ShowPanel({ onClose }: { onClose: () => void }) {
  const id = useShow((state) => state.id);
  const show = useShow((state) => settings(state.objects));
  const [recent, setRecent] = useState<RecentShow[]>([]);
  const [name, setName] = useState("");
  const [system, setSystem] = useState<System>(show.system);
  const [wrong, setWrong] = useState("");
  const [bare, setBare] = useState(false);
  const [packed, setPacked] = useState<{ bytes: number; without_history: number } | null>(null);
  useEffect(() => {
    void get("/api/recent").then(setRecent, () => undefined);
    void get("/api/shows/{show}/packed", { params: { path: { show: id } } }).then(setPacked, () => undefined);
  }, [id]);
  // Every browser goes with the show that is opened, this one too.
  const go = (work: Promise<unknown>) => void work.then(() => location.reload(), (error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  return (
    <Overlaid label="The show" onClose={onClose}>
      <Section title="This show">
        <Field label="Name" numeric={false} value={show.name} onCommit={(text) => edit("set show", { name: text }, { quiet: true })} />
        <Field label="Venue" numeric={false} value={show.venue} onCommit={(text) => edit("set show", { venue: text }, { quiet: true })} />
        <Choice<System> label="Units" value={show.system} options={SYSTEMS} onChange={(chosen) => void edit("set show", { system: chosen }).catch(() => undefined)} />
        <Field label="You are" numeric={false} value={myName()} onCommit={(text) => Promise.resolve(setMyName(text))} />
        <Box fontSize="11.5px" color="faint" mt="6px">Every edit is in the file as soon as it is made.</Box>
      </Section>
      <Section title="Pack for sending">
        <chakra.label display="flex" gap="8px" alignItems="center" fontSize="12.5px" mb="6px" cursor="pointer">
          <chakra.input type="checkbox" accentColor="{colors.brass}" checked={bare} onChange={() => setBare(!bare)} />
          Without what was done and undone, and without restore points
        </chakra.label>
        <Flex align="center" gap="10px">
          <chakra.a href={`/api/shows/${id}/copy?history=${!bare}`} download display="inline-block" px="10px" py="4px" fontSize="12.5px" border="1px solid" borderColor="line" borderRadius="5px" _hover={{ bg: "ink3" }}>
            Save a copy
          </chakra.a>
          {packed && <Box fontFamily="mono" fontSize="12px" color="dim">{((bare ? packed.without_history : packed.bytes) / 1e6).toFixed(1)} MB</Box>}
        </Flex>
        <Box fontSize="11.5px" color="faint" mt="6px">One file with all of it inside: types, drawings and meshes too. It can be opened anywhere: dropped on the window, or with zarfwright and its name.</Box>
      </Section>
      <Section title="Other programs">
        <Action onClick={() => { onClose(); openExchange(); }}>Scenes in and out</Action>
      </Section>
      <Section title="A new show">
        <Input label="Its name" numeric={false} value={name} onChange={setName} hint="The Lamplighter's Tide" />
        <Choice<System> label="Its units" value={system} options={SYSTEMS} onChange={setSystem} />
        <Action onClick={() => go(post("/api/new", { body: { name, system } }))} disabled={!name.trim()}>
          Begin {name.trim() || "a new show"}
        </Action>
      </Section>
      <Section title="Opened before">
        {recent.map((one) => (
          <Flex key={one.path} align="center" gap="10px" py="2px" fontSize="12.5px">
            <Box flex="1" minWidth="0" truncate color={one.open ? "brass" : "text"}>{one.name}</Box>
            <Box fontSize="11px" color="faint" maxWidth="260px" truncate title={one.path}>{one.path}</Box>
            {one.open ? <Box color="faint" fontSize="11.5px">open</Box> : <Action height="22px" onClick={() => go(post("/api/open", { body: { path: one.path } }))}>Open</Action>}
          </Flex>
        ))}
        <Box mt="8px"><FileField label="A show file" accept=".zarf" onFile={(file) => go(sendFile("/api/take", {}, file))} /></Box>
        {wrong && <Sign tone="wrong">{wrong}</Sign>}
      </Section>
    </Overlaid>
  );
}
