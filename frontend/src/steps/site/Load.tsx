import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Input, Section, Sign } from "../../kit/controls";
import { get } from "../../show/api";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useFetched } from "../../show/fetched";
import { length, many } from "../../show/format";
import { useOnly } from "../../show/selected";

/** What hangs on a structure and what it comes to at its points, spread evenly: an estimate, no proof. */
export function Load() {
  const truss = useOnly("truss");
  const { system } = useShow((state) => settings(state.objects));
  const load = useFetched(truss?.id ?? null, (show, id) => get("/api/shows/{show}/structures/{thing}/load", { params: { path: { show, thing: id } } }));
  const [over, setOver] = useState("");
  const [wrong, setWrong] = useState("");
  if (!truss || !load) return null;
  const line = (label: string, value: string) => (
    <Flex justify="space-between" fontSize="12px" py="1px">
      <Box color="dim">{label}</Box>
      <Box fontFamily="mono">{value}</Box>
    </Flex>
  );
  const upright = truss.body.form === "upright";
  return (
    <Section title="What it carries">
      {line("Itself", `${load.own_kg.toFixed(0)} kg`)}
      {line(many(load.fixtures, "fixture"), `${load.fixtures_kg.toFixed(0)} kg`)}
      {line(upright ? "On its foot" : `At each of ${load.points} points${load.told ? "" : ", as usual"}`, `${load.point_kg.toFixed(0)} kg`)}
      {!upright && line("Over what is below", length(load.over_m, system))}
      <Box fontSize="11px" color="faint" mb="6px">Spread evenly: an estimate, not a structural proof.</Box>
      {!upright && (
        <Flex gap="6px" align="flex-start">
          <Box flex="1"><Input label="Hang over it" value={over} hint={length(load.over_m, system)} onChange={setOver} /></Box>
          <Action height="26px" disabled={!over.trim()} onClick={() => { setWrong(""); void edit("set above", { ids: [truss.id], height: over }, { quiet: true }).then(() => setOver(""), (error: unknown) => setWrong(error instanceof Error ? error.message : String(error))); }}>
            Hang
          </Action>
        </Flex>
      )}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
    </Section>
  );
}
