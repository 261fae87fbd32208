import { Box, Flex } from "@chakra-ui/react";
import { Action, Foot, Progress, Section, Sign } from "../kit/controls";
import { who } from "../show/document";
import { many } from "../show/format";
import { stopJob, useJobs } from "../show/jobs";
import { leaveExchange, putOnRails, saveReport, takeScene, useExchange } from "./state";

const cm = (metres: number): string => `${Math.round(metres * 100)} cm`;
/** From how near to how far heads are, in one figure where that is the same. */
const apart = (one: { nearest_m: number; furthest_m: number }): string => (cm(one.nearest_m) === cm(one.furthest_m) ? cm(one.nearest_m) : `${cm(one.nearest_m)} to ${cm(one.furthest_m)}`);

/** What taking it in would do, in one sentence and one button; and once it is done, what is left to do. */
export function Ending() {
  const { compared, taken, busy } = useExchange();
  if (!compared) return null;
  if (taken) return <Done />;
  const count = (change: string) => compared.lines.filter((line) => line.change === change).length;
  const said = [[count("added"), "new"], [count("changed"), "different"], [count("removed"), "removed"]].filter(([n]) => n).map(([n, word]) => `${n} ${word}`);
  const plain = compared.types.filter((one) => one.chosen === "plain").reduce((sum, one) => sum + one.fixtures, 0);
  return (
    <Section title="What will happen">
      <Box as="h2" fontSize="15px" fontWeight={600} mb="8px">{said.length ? said.join(", ") : "Nothing would change"}</Box>
      {count("removed") > 0 && <Sign tone="wrong">{many(count("removed"), "thing")} of this show {count("removed") === 1 ? "goes" : "go"}, for the file does not have {count("removed") === 1 ? "it" : "them"}.</Sign>}
      {plain > 0 && <Sign tone="attention">{plain === 1 ? "1 fixture gets a plain body with its slots: nobody has its type." : `${plain} fixtures get plain bodies with their slots: nobody has their types.`} See Types.</Sign>}
      {compared.beside.map((one) => (
        <Sign key={one.structure} tone="attention">{many(one.ids.length, "head")} beside {one.name}, {apart(one)} from its rails: can be put on them once taken in.</Sign>
      ))}
      {compared.findings.length > 0 && <Sign tone="attention">{many(compared.findings.length, "thing")} in the file {compared.findings.length === 1 ? "is" : "are"} odd: see there what was done about it.</Sign>}
      <Box fontSize="11.5px" color="faint" my="6px">It is one step: undo takes all of it back. What nobody here understands is kept, and goes out again.</Box>
      {busy && <Busy />}
      <Foot>
        <Action look="main" disabled={!said.length || busy} onClick={() => void takeScene()}>{busy ? "Taking it in" : `Take in: ${said.join(", ") || "nothing"}`}</Action>
      </Foot>
    </Section>
  );
}

/** How far the meshes of it are read, and a way to stop that. */
function Busy() {
  const job = useJobs((state) => state.jobs).find((one) => one.who === who && one.state === "running");
  if (!job?.of) return null;
  return (
    <Flex align="center" gap="8px" fontSize="11.5px" color="dim" mb="6px">
      <Progress share={job.done / job.of} label="How much of it is taken in" />
      <Box fontFamily="mono">{job.done} of {job.of}</Box>
      <Action look="quiet" height="22px" onClick={() => void stopJob(job.id)}>Stop taking it in</Action>
    </Flex>
  );
}

function Done() {
  const { taken } = useExchange();
  if (!taken) return null;
  return (
    <Section title="Done">
      <Box role="status" aria-live="polite">
        <Sign tone="fine">{taken.sentence}.</Sign>
        {taken.report.map((line, i) => <Sign key={i} tone="attention">{line}</Sign>)}
      </Box>
      {taken.beside.map((one) => (
        <Box key={one.structure} mt="8px">
          <Action width="100%" onClick={() => void putOnRails(one)}>Put {one.ids.length} back on {one.name}: {apart(one)} away</Action>
        </Box>
      ))}
      <Flex direction="column" gap="6px" mt="10px">
        <Action onClick={() => void saveReport()}>Keep the report</Action>
        <Action look="main" onClick={leaveExchange}>See the show</Action>
      </Flex>
    </Section>
  );
}
