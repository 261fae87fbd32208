import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Progress, Sign } from "../kit/controls";
import { settings, useShow } from "../show/document";
import { many } from "../show/format";
import { useJobs } from "../show/jobs";
import { Differences } from "./Differences";
import { Ending } from "./Ending";
import { Gates } from "./Gates";
import { Types } from "./Types";
import { Wanted } from "./Wanted";
import { leaveExchange, putAway, saveReport, stopReading, useExchange } from "./state";

type Tab = "differences" | "types" | "odd";

/** Scenes of other programs: a file beside the show before anything of it is taken, and what goes out. */
export function Exchange() {
  const { compared, reading, key } = useExchange();
  return (
    <Box as="main" aria-label="Exchange" gridColumn="1 / 3" minHeight="0" minWidth="0" bg="ink1">
      {compared && key ? <Compared /> : reading ? <Reading /> : <Gates />}
    </Box>
  );
}

/** A large file while it is read: the program goes on meanwhile, and it can be stopped. */
function Reading() {
  const { reading } = useExchange();
  const job = useJobs((state) => state.jobs).find((one) => one.id === reading?.job);
  return (
    <Flex direction="column" align="center" justify="center" height="100%" gap="12px" color="dim" role="status">
      <Box as="h1" fontSize="15px" color="text" fontWeight={600}>Reading {reading?.name}</Box>
      <Box fontSize="12.5px">Its types and meshes are looked at; nothing of it is in the show yet.</Box>
      {job && job.of > 0 && <Box width="260px"><Progress share={job.done / job.of} label="How much of it is read" /><Box fontFamily="mono" fontSize="11px" textAlign="center">{job.done} of {job.of}</Box></Box>}
      <Flex gap="8px">
        {reading?.job && <Action onClick={stopReading}>Stop reading</Action>}
        <Action look="quiet" onClick={leaveExchange}>Go on working meanwhile</Action>
      </Flex>
    </Flex>
  );
}

function Compared() {
  const { compared, taken, wrong } = useExchange();
  const show = useShow((state) => settings(state.objects).name);
  const [tab, setTab] = useState<Tab>("differences");
  if (!compared) return null;
  const differences = compared.lines.filter((line) => line.change !== "kept").length;
  const doubtful = compared.types.filter((one) => one.chosen === "plain").length;
  const tabs: { value: Tab; label: string; count: number; attention: boolean }[] = [
    { value: "differences", label: "Differences", count: differences, attention: false },
    { value: "types", label: "Types", count: compared.types.length, attention: doubtful > 0 },
    { value: "odd", label: "Odd in the file", count: compared.findings.length, attention: compared.findings.length > 0 },
  ];
  return (
    <Grid height="100%" minHeight="0" templateRows="46px minmax(0, 1fr)" templateColumns="264px minmax(0, 1fr) 292px">
      <Flex gridColumn="1 / 4" align="center" gap="10px" px="14px" borderBottom="1px solid" borderColor="line" bg="ink2" minWidth="0">
        <Box as="h1" fontSize="14px" fontWeight={650} whiteSpace="nowrap">{compared.name}</Box>
        <Box color="dim" fontSize="12px" truncate>beside {show}{compared.provider ? `; written by ${compared.provider}` : ""}; {many(compared.same, "thing")} the same</Box>
        <Box flex="1" />
        <Action look="quiet" onClick={() => void saveReport()}>Save the report</Action>
        <Action onClick={putAway}>Put the file away</Action>
        <Action onClick={leaveExchange}>Back to the show</Action>
      </Flex>
      <Wanted />
      <Flex direction="column" minHeight="0" minWidth="0">
        <Flex role="tablist" aria-label="What to look at" height="34px" flex="none" px="10px" gap="4px" align="center" borderBottom="1px solid" borderColor="line">
          {tabs.map((one) => (
            <chakra.button
              key={one.value} type="button" role="tab" aria-selected={tab === one.value} px="10px" height="33px" fontSize="12.5px" cursor="pointer" color={tab === one.value ? "text" : "dim"}
              borderBottom={tab === one.value ? "2px solid {colors.brass}" : "2px solid transparent"} onClick={() => setTab(one.value)}
            >
              {one.label} <Box as="span" fontFamily="mono" fontSize="11px" color={one.attention ? "ember" : "faint"}>{one.count}</Box>
            </chakra.button>
          ))}
        </Flex>
        {tab === "differences" ? <Differences /> : tab === "types" ? <Types /> : <Odd />}
      </Flex>
      <Flex direction="column" minHeight="0" overflowY="auto" bg="ink2" borderLeft="1px solid" borderColor="line">
        <Ending />
        {wrong && !taken && <Box px="16px"><Sign tone="wrong">{wrong}</Sign></Box>}
      </Flex>
    </Grid>
  );
}

/** What does not fit together in the file, and what was done about it. */
function Odd() {
  const findings = useExchange((state) => state.compared?.findings ?? []);
  return (
    <Box overflowY="auto" flex="1" minHeight="0" px="14px" py="8px" role="list" aria-label="Odd in the file">
      {!findings.length && <Sign tone="fine">Everything in this file fits together.</Sign>}
      {findings.map((one, i) => (
        <Box key={i} role="listitem"><Sign tone="attention"><Box as="span" color="text">{one.where}:</Box> <Box as="span" color="dim">{one.what}; {one.done}.</Box></Sign></Box>
      ))}
    </Box>
  );
}
