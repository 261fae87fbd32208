import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Choice, Section, Segments } from "../../kit/controls";
import { openLibrary } from "../../shop/state";
import { ArrangeGuide } from "../../show/ArrangeGuide";
import { BodyFields } from "../../show/BodyFields";
import { CardHead, Readiness } from "../../show/CardHead";
import { Copies } from "../../show/Copies";
import { GelField } from "../../show/GelField";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { usePut } from "../../show/put";
import { useSelection } from "../../show/selection";
import { Carry } from "./Carry";
import { Drivers } from "./Driver";
import { Numbers } from "./Numbers";
import { Place } from "./Place";
import { Swap } from "./Swap";

type Doing = "place" | "arrange" | "number" | "carry" | "change";

/** What to do on the rig, one thing at a time: place, arrange, number, carry, or change how it hangs. */
export function HangCard() {
  const [picked, setDoing] = useState<Doing | null>(null);
  const chosen = useChosenFixtures();
  // What has just been placed is selected, and the next may follow; what is taken otherwise is to be changed.
  const placing = useRef(false);
  useEffect(
    () =>
      useSelection.subscribe((now, before) => {
        const taken = now.selection !== before.selection && now.selection.length > 0 && !placing.current && !usePut.getState().on;
        if (taken) setDoing((was) => (was === "place" ? null : was));
      }),
    [],
  );
  // Until somebody says otherwise: what is selected is to be changed, and where nothing is, something is to be placed.
  const doing = picked ?? (chosen.length ? "change" : "place");
  const lamps = chosen.filter((one) => !one.body.drives);
  const driver = chosen.length === 1 && chosen[0]?.body.drives ? chosen[0] : undefined;
  return (
    <>
      <CardHead none="Hang fixtures" />
      <Box px="16px" pt="10px">
        <Segments<Doing>
          name="What to do" value={doing} onChange={setDoing}
          options={[{ value: "place", label: "Place" }, { value: "arrange", label: "Arrange" }, { value: "number", label: "Number" }, { value: "carry", label: "Carry" }, { value: "change", label: "Change" }]}
        />
      </Box>
      {doing === "place" && <Box onFocusCapture={() => setDoing("place")}><Place placing={placing} /></Box>}
      {doing === "arrange" && <ArrangeGuide />}
      {doing === "number" && <Numbers />}
      {doing === "carry" && <Carry />}
      {doing === "change" && driver && <Drivers of={driver} />}
      {doing === "change" && lamps.length > 0 && (
        <Section title="Attitude">
          <Hanging ids={lamps.map((one) => one.id)} />
        </Section>
      )}
      {doing === "change" && lamps.length > 0 && (
        <Section title="In its frame">
          <GelField key={chosen.map((one) => one.id).join()} ids={chosen.map((one) => one.id)} gels={chosen.map((one) => one.body.gel)} />
        </Section>
      )}
      {doing === "change" && lamps.length > 0 && (
        <Section title="More of them">
          <Copies ids={chosen.map((one) => one.id)} />
        </Section>
      )}
      {doing === "change" && !driver && <Swap />}
      <Readiness step="hang" />
      {doing === "place" && (
        <Section title="Fixture types">
          <Action onClick={() => openLibrary()}>Types and type shop</Action>
        </Section>
      )}
    </>
  );
}

const STEPS = ["-90", "-15", "+15", "+90"];

function Hanging({ ids }: { ids: string[] }) {
  const chosen = useChosenFixtures();
  const types = useShow((state) => state.types);
  const first = chosen[0];
  if (!first) return null;
  const put = (field: string) => (text: string) => void edit("set field", { ids, field, text }).catch(() => undefined);
  const modes = types[first.body.type]?.modes.map((mode) => mode.name) ?? [];
  const oneType = chosen.every((one) => one.body.type === first.body.type);
  const hung = chosen.every((one) => one.body.hang);
  return (
    <>
      <BodyFields ids={ids} />
      {hung && first.body.hang && (
        <>
          <Choice label="Side of rail" value={first.body.hang.side ?? "under"} options={["under", "upper", "left", "right"]} onChange={put("side")} />
          <Flex gap="4px" mb="6px" align="center" fontSize="12px" color="dim">
            <Box width="88px">Swing it by</Box>
            {STEPS.map((by) => <Action key={by} height="22px" px="5px" fontSize="11px" aria-label={`${by}° about the rail`} onClick={() => put("about rail")(by.replace(/^[-+]/, "$&="))}>{by}°</Action>)}
          </Flex>
          <Choice label="On slopes" value={first.body.hang.on_slopes ?? "follow"} options={[{ value: "follow", label: "follow the slope" }, { value: "plumb", label: "hang plumb" }]} onChange={put("on slopes")} />
        </>
      )}
      {oneType && <Choice label="Mode" value={first.body.mode} options={modes} onChange={put("mode")} />}
      <Flex gap="6px" wrap="wrap">
        {ids.length > 1 && <Action look="quiet" height="24px" onClick={() => void edit("copy attitude", { ids, like: ids[0] ?? "" }).catch(() => undefined)}>All like the first</Action>}
        <Action look="quiet" height="24px" onClick={() => void edit("put back", { ids }).catch(() => undefined)}>Put back</Action>
        <Action look="quiet" height="24px" onClick={() => void edit("remove", { ids }).catch(() => undefined)}>Remove {many(ids.length, "fixture")}</Action>
      </Flex>
    </>
  );
}
