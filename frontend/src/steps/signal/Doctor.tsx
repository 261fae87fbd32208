import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Progress, Section, Sign } from "../../kit/controls";
import { askDoctor, useDoctor } from "../../show/doctor";
import { edit } from "../../show/edits";
import { refused } from "../../show/messages";
import { select } from "../../show/selection";
import type { DoctorReport, EditArgs } from "../../show/types";

type Cause = NonNullable<DoctorReport["causes"]>[number];

/** What the doctor found, each with the one thing to do; and the button that asks it. */
export function Doctor() {
  const report = useDoctor((state) => state.report);
  const causes = report?.causes ?? null;
  return (
    <Section title="Doctor">
      {report?.problem && <Sign tone="wrong">{report.problem}</Sign>}
      {!report?.listening && causes?.length === 0 && <Sign tone="fine">Nothing wrong was seen in {report?.seconds} s of listening.</Sign>}
      <Box role="list" aria-label="What the doctor found">
        {causes?.map((one) => <Found key={one.cause + one.evidence} cause={one} />)}
      </Box>
      {report?.listening ? <Listening seconds={report.seconds} /> : <Action look={causes?.length ? "plain" : "main"} width="100%" mt="4px" onClick={() => void askDoctor()}>{causes ? "Ask the doctor again" : "Ask the doctor: listen for 6 s"}</Action>}
      {!report?.listening && (
        <Action look="quiet" width="100%" height="24px" fontSize="11.5px" title="Let the console step through its fixtures, or play: the longer, the surer" onClick={() => void askDoctor(30)}>
          Listen for 30 s: also whether the patch is shifted
        </Action>
      )}
    </Section>
  );
}

function Found({ cause }: { cause: Cause }) {
  const [done, setDone] = useState(false);
  const repair = () =>
    edit(cause.edit as keyof EditArgs, cause.args as EditArgs[keyof EditArgs]).then(
      () => setDone(true),
      (wrong: unknown) => refused(wrong),
    );
  return (
    <Box role="listitem" mb="8px" data-cause={cause.cause}>
      <Sign tone={done ? "fine" : "wrong"} onClick={cause.fixtures.length ? () => select(cause.fixtures) : undefined}>
        {cause.evidence}
      </Sign>
      <Box ml="21px" color="dim" fontSize="12px">
        {done ? "Done: ask again to see that it was that." : cause.action}
      </Box>
      {cause.edit && !done && (
        <Action height="24px" ml="21px" mt="3px" fontSize="11.5px" onClick={() => void repair()}>
          {cause.label}
        </Action>
      )}
    </Box>
  );
}

/** How long it still listens. */
function Listening({ seconds }: { seconds: number }) {
  const since = useDoctor((state) => state.since);
  const [now, setNow] = useState(() => performance.now());
  useEffect(() => {
    const clock = setInterval(() => setNow(performance.now()), 200);
    return () => clearInterval(clock);
  }, []);
  return (
    <Box fontSize="12px" color="dim" role="status">
      Listening for {seconds} s to what comes in, on every address of this machine.
      <Progress label="The doctor listens" share={Math.min((now - since) / 1000 / seconds, 1)} />
    </Box>
  );
}
