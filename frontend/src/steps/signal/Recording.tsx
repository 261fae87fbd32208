import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, FileField, Progress, Section, Sign } from "../../kit/controls";
import { bringRecording, commandCapture, useCapture } from "../../show/capture";
import { useLink } from "../../show/connection";
import { at } from "../../show/document";
import { many } from "../../show/format";
import type { CaptureReport, SignalEvent } from "../../show/types";
import { spans } from "./mapping";

const STRETCHES = [10, 60] as const;

/** A stretch of traffic kept as a file, for fault finding and for others; and one sent again. */
export function Recording() {
  const report = useCapture((state) => state.report);
  const busy = report && report.state !== "idle" ? report : null;
  return (
    <Section title="Recording">
      {report?.problem && <Sign tone="wrong">{report.problem}</Sign>}
      {busy && <Going report={busy} />}
      {!busy && report?.recording && <Holds recording={report.recording} />}
      {!busy && (
        <>
          <Flex gap="6px" mb="8px">
            {STRETCHES.map((seconds) => (
              <Action key={seconds} flex="1" title="Keep everything that comes in, as a pcap file" onClick={() => void commandCapture({ do: "record", seconds })}>
                Record {seconds} s
              </Action>
            ))}
          </Flex>
          <Box fontSize="12px" color="dim" mb="4px">
            Or bring one, to send it again here:
          </Box>
          <FileField label="A recording of network traffic (pcap)" accept=".pcap,.pcapng,.cap" onFile={(file) => void bringRecording(file)} />
        </>
      )}
    </Section>
  );
}

/** Which of the senders of a recording are heard just now. */
function heardToo(recording: NonNullable<CaptureReport["recording"]>, signal: SignalEvent | null): string[] {
  const live = new Set(signal?.universes.flatMap((one) => one.sources.map((source) => `${source.protocol} ${source.name}`)));
  return recording.sources.filter((one) => live.has(`${one.protocol} ${one.name}`)).map((one) => one.name);
}

function Holds({ recording }: { recording: NonNullable<CaptureReport["recording"]> }) {
  const signal = useLink((state) => state.signal);
  const left = Object.entries(recording.left_out);
  const beside = heardToo(recording, signal);
  return (
    <Box mb="8px" aria-label="The recording" role="group" fontSize="12px">
      <Box color="text">
        {recording.name}: {recording.seconds.toFixed(1)} s, {many(recording.packets, "packet")}
      </Box>
      {recording.sources.map((one) => (
        <Box key={one.name + one.protocol + one.address} color="dim">
          {one.name}, {one.protocol} {spans(one.universes)} from {one.address}
        </Box>
      ))}
      {recording.full && <Sign tone="attention">It ended here: more than this is not kept.</Sign>}
      {left.length > 0 && <Sign tone="attention">Left out: {left.map(([what, count]) => `${count} ${what}`).join(", ")}.</Sign>}
      {beside.length > 0 && <Sign tone="attention">{beside.join(", ")} {beside.length > 1 ? "send" : "sends"} just now: stop that first, or the two will mix.</Sign>}
      <Flex gap="6px" mt="4px">
        <Action flex="1" title="To where this show listens, at its pace" onClick={() => void commandCapture({ do: "replay" })}>
          Send it again
        </Action>
        <Action flex="1" onClick={() => location.assign(`/api/shows/${at().params.path.show}/recordings`)}>
          Save the file
        </Action>
      </Flex>
    </Box>
  );
}

/** How far it is. The time of a recording that is made is counted here. */
function Going({ report }: { report: CaptureReport }) {
  const since = useCapture((state) => state.since);
  const [now, setNow] = useState(() => performance.now());
  const recording = report.state === "recording";
  useEffect(() => {
    const clock = setInterval(() => setNow(performance.now()), 250);
    return () => clearInterval(clock);
  }, []);
  const at_s = recording ? Math.min((now - since) / 1000, report.seconds) : report.at_s;
  return (
    <Box fontSize="12px" color="dim" role="status">
      {recording ? "Recording" : "Sending again"}, {many(report.packets, "packet")}: {at_s.toFixed(0)} of {report.seconds.toFixed(0)} s
      <Progress label={recording ? "The recording" : "The recording that is sent again"} share={report.seconds ? Math.min(at_s / report.seconds, 1) : 1} />
      <Action width="100%" onClick={() => void commandCapture({ do: recording ? "keep" : "stop" })}>
        {recording ? "Keep what has come so far" : "Stop sending"}
      </Action>
    </Box>
  );
}
