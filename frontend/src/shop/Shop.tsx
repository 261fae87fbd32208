import { Box, chakra, Flex, Grid, VisuallyHidden } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Sign } from "../kit/controls";
import { thing, useShow } from "../show/document";
import { edit } from "../show/edits";
import { BodyForm } from "./BodyForm";
import { ChannelCard, Checks } from "./ChannelCard";
import { Library } from "./Library";
import { ChannelTable, ModeTabs } from "./Modes";
import { Preview } from "./Preview";
import { Ruler } from "./Ruler";
import { Wheels } from "./Wheels";
import type { Draft } from "./draft";
import { Reading } from "./Reading";
import { closeReading, openReading, useReading } from "./reading";
import { finish, gdtfOf, leaveShop, lostNow, openLibrary, goFull, goHome, useShop } from "./state";

/** What is open over the work line. */
export function Shop() {
  const screen = useShop((state) => state.screen);
  return (
    <Box as="main" aria-label="Type shop" gridColumn="1 / 3" minHeight="0" minWidth="0" bg="ink1">
      {screen === "library" ? <Library /> : <DraftScreen />}
    </Box>
  );
}

function DraftScreen() {
  const id = useShop((state) => state.draft);
  const draft = useShow((state) => thing(state.objects, id, "draft")?.body as Draft | undefined);
  const problem = useShop((state) => state.problem);
  const reading = useReading((state) => state.open && state.draft === id);
  const [side, setSide] = useState<"lamp" | "wheels">("lamp");
  if (!draft || !id) return <Box p="20px" color="dim">This draft is gone. <Action onClick={() => openLibrary()}>To the types</Action></Box>;
  return (
    <Grid height="100%" minHeight="0" templateRows="42px minmax(0, 1fr)" templateColumns="272px minmax(0, 1fr) 300px">
      <Flex gridColumn="1 / 4" align="center" gap="10px" px="14px" borderBottom="1px solid" borderColor="line" bg="ink2">
        <Box as="h1" fontSize="14px" fontWeight={650} whiteSpace="nowrap">{draft.name}</Box>
        <Box color="dim" fontSize="12px" whiteSpace="nowrap">{draft.maker}, {draft.of_type ? "a change of a type in this show" : "a draft"}</Box>
        <Box flex="1" />
        <Action look={draft.modes.some((one) => one.channels.length) ? "plain" : "on"} aria-pressed={reading} onClick={() => (reading ? closeReading() : openReading())}>From the manual</Action>
        <Action look="quiet" title="All channels at their resting values" onClick={goHome}>Home</Action>
        <Action look="quiet" title="Intensity full, shutter open, all lights on" onClick={goFull}>Full</Action>
        <Finish draft={draft} />
        <Action look="quiet" onClick={() => openLibrary()}>All types</Action>
        <Action onClick={leaveShop}>Back to the show</Action>
      </Flex>
      <Box overflowY="auto" minHeight="0" bg="ink2" borderRight="1px solid" borderColor="line" display={reading ? "none" : "block"}>
        <Flex role="tablist" aria-label="What to look at" height="34px" px="10px" gap="4px" align="center" borderBottom="1px solid" borderColor="line">
          {(["lamp", "wheels"] as const).map((one) => (
            <chakra.button key={one} type="button" role="tab" aria-selected={side === one} px="10px" height="24px" fontSize="12px" cursor="pointer" color={side === one ? "text" : "dim"} borderBottom={side === one ? "2px solid {colors.brass}" : "2px solid transparent"} onClick={() => setSide(one)}>
              {one === "lamp" ? "Body and beam" : "Wheels"}
            </chakra.button>
          ))}
        </Flex>
        <VisuallyHidden asChild><h2>{side === "lamp" ? "Body and beam" : "Wheels"}</h2></VisuallyHidden>
        {side === "lamp" ? <BodyForm draft={draft} /> : <Wheels draft={draft} />}
      </Box>
      {reading ? (
        <Reading draft={draft} />
      ) : (
        <>
      <Flex direction="column" minHeight="0" minWidth="0">
        <Preview />
        {problem && <Box px="12px"><Sign tone="wrong">{problem}</Sign></Box>}
        <Flex direction="column" height="52%" minHeight="260px" flex="none">
          <ModeTabs draft={draft} />
          <ChannelTable draft={draft} />
          <Ruler draft={draft} />
        </Flex>
      </Flex>
      <Box overflowY="auto" minHeight="0" bg="ink2" borderLeft="1px solid" borderColor="line">
        <Checks />
        <ChannelCard draft={draft} />
      </Box>
        </>
      )}
    </Grid>
  );
}

/** The last buttons: what finishing does to fixtures, and what a copy loses of its file, is said before it is done. */
function Finish({ draft }: { draft: Draft }) {
  const id = useShop((state) => state.draft);
  const [told, setTold] = useState<{ of: Draft; lines: string[]; lost: string[]; write: boolean } | null>(null);
  // What was said of an older draft is no longer true.
  const said = told?.of === draft ? told : null;
  const write = () => { if (id) window.location.assign(gdtfOf(id)); };
  const first = async () => {
    const lost = await lostNow();
    if (!draft.of_type && !lost.length) {
      await finish(false);
      return;
    }
    const result = draft.of_type ? await finish(true) : null;
    if (result || !draft.of_type) setTold({ of: draft, lines: draft.of_type ? (result?.report?.length ? result.report : ["Nothing changes for the fixtures that are hung."]) : [], lost, write: false });
  };
  const writeFirst = async () => {
    const lost = await lostNow();
    if (lost.length) setTold({ of: draft, lines: [], lost, write: true });
    else write();
  };
  return (
    <>
      <Action look="quiet" onClick={() => void writeFirst()}>Write GDTF</Action>
      <Action look="on" onClick={() => void first()}>{draft.of_type ? "Change the type" : "Add to the show"}</Action>
      <Action look="quiet" onClick={() => id && void edit("remove", { ids: [id] }).catch(() => undefined)}>Throw away</Action>
      {said && (
        <Box role="dialog" aria-label="What would change" position="fixed" top="104px" right="320px" zIndex={20} width="380px" maxHeight="60vh" overflowY="auto" bg="ink3" border="1px solid" borderColor="brassDeep" borderRadius="6px" p="14px">
          <Box fontWeight={600} mb="6px">What changes with {draft.name}</Box>
          {said.lines.map((line, i) => <Sign key={i} tone="attention">{line}</Sign>)}
          {said.lost.length > 0 && <Box fontSize="12px" color="dim" mt="6px" mb="4px">Of the file that it was copied from:</Box>}
          {said.lost.map((line, i) => <Sign key={i} tone="attention">{line}</Sign>)}
          <Flex gap="8px" mt="10px">
            <Action look="on" onClick={() => { setTold(null); if (said.write) write(); else void finish(false); }}>{said.write ? "Write it so" : draft.of_type ? "Change it" : "Add it so"}</Action>
            <Action onClick={() => setTold(null)}>Leave it</Action>
          </Flex>
        </Box>
      )}
    </>
  );
}
