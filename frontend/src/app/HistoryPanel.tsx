import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Overlaid } from "../kit/Overlaid";
import { Action } from "../kit/controls";
import { useShow } from "../show/document";
import { getHistory, getPoints, goBack, namePoint } from "../show/edits";
import { useMessages } from "../show/messages";
import type { HistoryEntry, Point } from "../show/types";

const clock = (at: Date): string => at.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", second: "2-digit" });
const time = (at: string): string => clock(new Date(at));

/** What was said and done, newest first, and named points to come back to. Going back is an edit: it can be undone. */
export function HistoryPanel({ onClose }: { onClose: () => void }) {
  const rev = useShow((state) => state.rev);
  const said = useMessages((state) => state.said);
  const [entries, setEntries] = useState<HistoryEntry[]>([]);
  const [points, setPoints] = useState<Point[]>([]);
  const [name, setName] = useState("");
  useEffect(() => {
    void getHistory().then(setEntries, () => undefined);
    void getPoints().then(setPoints, () => undefined);
  }, [rev]);
  const keep = () => {
    if (name.trim()) void namePoint(name.trim()).then((now) => { setPoints(now); setName(""); }, () => undefined);
  };
  return (
    <Overlaid label="History" onClose={onClose}>
      <Flex as="form" gap="8px" p="12px 16px" borderBottom="1px solid" borderColor="line" onSubmit={(event) => { event.preventDefault(); keep(); }}>
        <chakra.input aria-label="Name of a restore point" placeholder="Name the show as it is now" value={name} onChange={(event) => setName(event.target.value)} flex="1" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="28px" px="8px" fontSize="12.5px" />
        <Action type="submit" disabled={!name.trim()}>Keep a restore point</Action>
      </Flex>
      {points.length > 0 && (
        <Box p="8px 16px" borderBottom="1px solid" borderColor="line">
          {points.map((point) => (
            <Flex key={point.id} align="center" gap="10px" py="2px" fontSize="12.5px">
              <Box flex="1" color="brass">{point.name}</Box>
              <Box fontFamily="mono" fontSize="11px" color="faint">{time(point.at)}</Box>
              <Action height="22px" onClick={() => void goBack({ point: point.id })}>Go back to it</Action>
            </Flex>
          ))}
        </Box>
      )}
      {said.length > 0 && (
        <Box p="8px 16px" borderBottom="1px solid" borderColor="line" role="list" aria-label="Messages" maxHeight="148px" overflowY="auto">
          {said.map((one) => (
            <Flex key={one.id} role="listitem" gap="10px" py="2px" fontSize="12.5px">
              <Box flex="1" color={one.tone === "done" ? "dim" : one.tone === "wrong" ? "rose" : "ember"}>{one.text}</Box>
              <Box fontFamily="mono" fontSize="11px" color="faint">{clock(one.at)}</Box>
            </Flex>
          ))}
        </Box>
      )}
      <Box p="8px 16px" role="list" aria-label="Edits">
        {entries.map((entry, i) => (
          <Flex key={entry.seq} role="listitem" align="center" gap="10px" py="2px" fontSize="12.5px" color={entry.undone ? "faint" : "text"} textDecoration={entry.undone ? "line-through" : undefined}>
            <Box flex="1" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">{entry.sentence}</Box>
            <Box fontFamily="mono" fontSize="11px" color="faint">{time(entry.at)}</Box>
            {i > 0 && !entry.undone && <Action look="quiet" height="22px" onClick={() => void goBack({ seq: entry.seq })}>Back to here</Action>}
          </Flex>
        ))}
        {!entries.length && <Box color="dim" fontSize="12.5px">Nothing was done yet. Every edit is listed here as it is made.</Box>}
      </Box>
    </Overlaid>
  );
}
