import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Sign } from "../kit/controls";
import { many } from "../show/format";
import { type Draft, kindOfDoubt, lastSlot, type Range } from "./draft";
import { wordsOf } from "./Modes";
import { byHand, closeReading, giveCells, lookAtMode, type ReadLine, readLines, type ReadRange, setReplacing, summary, takeReading, typeText, useReading } from "./reading";
import { useShop } from "./state";

const LINE = 22;
const COLUMNS = "30px minmax(0, 1.65fr) minmax(0, 1.1fr) minmax(0, 0.7fr)";

/** A manual's text on the left, what is made of each line beside it, what is in doubt in the margin. */
export function Reading({ draft }: { draft: Draft }) {
  const { text, read, wrong, channel, replacing, byHand: changes, mode } = useReading();
  const at = useShop((state) => state.mode);
  const lenses = useShop((state) => state.trial?.lenses.length ?? 1);
  const [chosen, setChosen] = useState<string | null>(null);
  const box = useRef<HTMLTextAreaElement>(null);
  useEffect(() => box.current?.focus(), []);
  const lines = readLines(text, read, mode, changes);
  const found = summary(text, read, changes);
  const target = draft.modes[at];
  const what = channel === null ? `${found.modes > 1 ? `${many(found.modes, "mode")}, ` : ""}${many(found.channels, "channel")}` : many(lines.reduce((sum, line) => sum + line.ranges.length, 0), "range");
  const few = channel === null && draft.kind !== "as it came" && draft.kind !== "hazer" && (read?.cells ?? 1) > lenses;
  return (
    <Flex as="section" aria-label="From the manual" gridColumn="1 / 4" direction="column" minHeight="0" bg="ink1" onKeyDown={(event) => { if (event.key === "Escape") closeReading(); }}>
      <Flex align="center" gap="10px" px="14px" minHeight="40px" flex="none" wrap="wrap" borderBottom="1px solid" borderColor="line">
        <Box as="h2" fontSize="13px" fontWeight={650}>{channel === null ? "From the manual" : `Channel ${draft.modes[at]?.channels[channel]?.slots.join("+") ?? ""} from the manual`}</Box>
        {(read?.modes.length ?? 0) > 1 && (
          <Flex role="tablist" aria-label="Modes that were read" gap="2px">
            {read?.modes.map((one, i) => (
              <chakra.button key={i} type="button" role="tab" aria-selected={i === mode} px="8px" height="24px" fontSize="12px" cursor="pointer" color={i === mode ? "text" : "dim"} borderBottom={i === mode ? "2px solid {colors.brass}" : "2px solid transparent"} onClick={() => lookAtMode(i)}>
                {read.draft.modes[one.mode]?.name} <chakra.span fontFamily="mono" fontSize="11px" color="faint">{lastSlot(read.draft.modes[one.mode]?.channels ?? [], 1)}</chakra.span>
              </chakra.button>
            ))}
          </Flex>
        )}
        <Box flex="1" />
        {channel === null && target && target.channels.length > 0 && found.channels > 0 && (
          <Flex role="radiogroup" aria-label="Where it goes" gap="4px" align="center" fontSize="12px">
            <Action look={replacing ? "quiet" : "on"} height="24px" role="radio" aria-checked={!replacing} onClick={() => setReplacing(false)}>beside {target.name}</Action>
            <Action look={replacing ? "on" : "quiet"} height="24px" role="radio" aria-checked={replacing} onClick={() => setReplacing(true)}>in place of its {many(target.channels.length, "channel")}</Action>
          </Flex>
        )}
        <Action onClick={closeReading}>Leave</Action>
        <Action look="main" width="auto" disabled={!read?.modes.length} onClick={() => void takeReading()}>Take {what}</Action>
      </Flex>
      {(wrong || few) && (
        <Flex px="14px" py="6px" gap="10px" align="center" borderBottom="1px solid" borderColor="line">
          {wrong && <Sign tone="wrong">{wrong}</Sign>}
          {few && (
            <>
              <Sign tone="attention">The text speaks of {read?.cells} cells, and this body has {lenses}.</Sign>
              <Action height="24px" onClick={() => void giveCells(read?.cells ?? 1)}>Give it {read?.cells} in a row</Action>
            </>
          )}
        </Flex>
      )}
      <Grid templateColumns={COLUMNS} gap="0 10px" px="14px" height="24px" alignItems="center" flex="none" fontSize="11px" color="faint" borderBottom="1px solid" borderColor="line">
        <Box />
        <Box>the manual’s text</Box>
        <Box>{text.trim() ? `what was read: ${what}` : "what was read"}</Box>
        <Box>{[found.doubts && `${found.doubts} to look at`, found.left && `${many(found.left, "line")} not used`].filter(Boolean).join(", ")}</Box>
      </Grid>
      <Box flex="1" minHeight="0" overflowY="auto">
        <Grid templateColumns={COLUMNS} gap="0 10px" px="14px" minHeight="100%" position="relative">
          <Box py="4px" fontFamily="mono" fontSize="10.5px" color="faint" textAlign="right" aria-hidden>
            {lines.map((line) => <Box key={line.number} height={`${LINE}px`} lineHeight={`${LINE}px`}>{line.number}</Box>)}
          </Box>
          <chakra.textarea
            ref={box} aria-label="A table out of a manual" value={text} onChange={(event) => typeText(event.target.value)} wrap="off" spellCheck={false} rows={1} resize="none" overflowX="auto" overflowY="hidden" bg="transparent" outline="none" p="4px 0" fontFamily="mono"
            fontSize="12px" lineHeight={`${LINE}px`} height={`${Math.max(lines.length, 12) * LINE + 24}px`} whiteSpace="pre" _placeholder={{ color: "faint" }}
            placeholder={channel === null ? "Paste the channel table of a manual here, with all of its modes:\n\n1  Pan          0-255    540°\n2  Pan fine\n3  Shutter      0-15     closed\n                16-95    strobe 1 to 8 Hz\n                96-255   open" : "Paste the table of this channel here:\n\n0-15   closed\n16-95  strobe 1 to 8 Hz\n96-255 open"}
          />
          <Box py="4px" role="list" aria-label="What was read" minWidth="0">
            {lines.map((line) => <Said key={line.number} line={line} chosen={chosen} onChoose={setChosen} />)}
          </Box>
          <Box py="4px" minWidth="0" fontSize="11.5px">
            {lines.map((line) => <Margin key={line.number} line={line} />)}
          </Box>
        </Grid>
      </Box>
    </Flex>
  );
}

/** What one line came to: the channels that begin in it, and its ranges, each to be put right in place. */
function Said({ line, chosen, onChoose }: { line: ReadLine; chosen: string | null; onChoose: (key: string | null) => void }) {
  const attributes = useShop((state) => state.attributes);
  const first = line.begins[0];
  const edited = line.ranges.find((one) => one.key === chosen);
  if (edited) return <InPlace one={edited} onDone={() => onChoose(null)} />;
  const name = first ? wordsOf(attributes, first.ranges.find((one) => one.attribute !== "NoFeature")?.attribute ?? "NoFeature") : "";
  const more = line.begins.length > 1 ? ` … ${line.begins[line.begins.length - 1]?.slots.join("+")}, ${many(line.begins.length, "channel")}` : "";
  return (
    <Flex role="listitem" height={`${LINE}px`} align="center" gap="8px" fontSize="12px" whiteSpace="nowrap" overflow="hidden" borderTop="1px solid" borderColor={first ? "line" : "transparent"}>
      {first && (
        <Box flex="none" color="brass">
          <chakra.span fontFamily="mono" fontSize="11.5px">{first.slots.join("+")}</chakra.span> {name}{more}
        </Box>
      )}
      {line.ranges.length < 7 && line.ranges.map((one) => (
        <chakra.button key={one.key} type="button" flex="none" px="4px" borderRadius="3px" cursor="pointer" _hover={{ bg: "ink3" }} color={["open", "checked"].includes(kindOfDoubt(one.range.doubt)) ? "ember" : "text"} title="Put it right here" onClick={() => onChoose(one.key)}>
          <chakra.span fontFamily="mono" fontSize="11px" color="dim">{one.range.start}–{one.range.end}</chakra.span> {worded(one.range, attributes, one.r === 0 ? name : "")}
        </chakra.button>
      ))}
    </Flex>
  );
}

/** A range in a few words: what it is called, or what it does where that is not said already. */
function worded(range: Range, attributes: Parameters<typeof wordsOf>[0], said: string): string {
  if (range.attribute === "NoFeature") return range.doubt ? `? ${range.name}` : `${range.name || "nothing"}`;
  const does = wordsOf(attributes, range.attribute);
  const unit = attributes.find((one) => one.name === range.attribute)?.unit ?? "";
  const plain = range.slot !== null || !SAID_UNITS[unit] || (range.low === 0 && range.high === 0);
  const values = plain ? "" : `, ${range.low === range.high ? round(range.low) : `${round(range.low)} to ${round(range.high)}`}${range.attribute === "CTC" || range.attribute === "CTO" ? " K" : SAID_UNITS[unit]}`;
  return `${does === said ? range.name || does : range.name ? `${does}: ${range.name}` : does}${values}`;
}

const SAID_UNITS: Record<string, string> = { deg: "°", "deg/s": "° a second", Hz: " Hz", "turn/s": "° a second", K: " K" };
const round = (value: number): string => String(Number(value.toFixed(2)));

/** The margin of a line: why somebody has to look at it. */
function Margin({ line }: { line: ReadLine }) {
  const doubts = [...new Set(line.ranges.map((one) => one.range.doubt).filter(Boolean))];
  const open = doubts.find((one) => kindOfDoubt(one) !== "assumed");
  const text = open ?? doubts[0] ?? line.left ?? "";
  const quiet = !open && (doubts.length > 0 || line.left === "a footnote");
  return (
    <Box height={`${LINE}px`} lineHeight={`${LINE}px`} color={quiet ? "faint" : "ember"} whiteSpace="nowrap" overflow="hidden" textOverflow="ellipsis" title={text}>
      {text && `${quiet ? "" : "◇ "}${line.left && !doubts.length ? `not used: ${line.left}` : text}`}
    </Box>
  );
}

const SMALL = { height: "20px", bg: "ink1", border: "1px solid", borderColor: "brassDeep", borderRadius: "3px", px: "4px", fontSize: "11.5px", color: "text" } as const;

/** A range put right where it stands. */
function InPlace({ one, onDone }: { one: ReadRange; onDone: () => void }) {
  const attributes = useShop((state) => state.attributes);
  const [range, setRange] = useState(one.range);
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []);
  const take = () => {
    if (range.start >= 0 && range.end >= range.start) byHand(one.key, { start: range.start, end: range.end, name: range.name, ...(range.attribute === one.range.attribute ? {} : { attribute: range.attribute, slot: null, wheel: null }) });
    onDone();
  };
  const number = (text: string): number => (/^\d{1,5}$/.test(text) ? Number(text) : -1);
  return (
    <Flex
      role="listitem" height={`${LINE}px`} align="center" gap="4px"
      onKeyDown={(event) => {
        if (event.key === "Enter") take();
        if (event.key === "Escape") {
          event.stopPropagation();
          onDone();
        }
      }}
    >
      <chakra.input {...SMALL} ref={first} aria-label="From" width="48px" fontFamily="mono" aria-invalid={range.start < 0} defaultValue={range.start} onChange={(event) => setRange({ ...range, start: number(event.target.value) })} />
      <chakra.input {...SMALL} aria-label="To" width="48px" fontFamily="mono" aria-invalid={range.end < range.start} defaultValue={range.end} onChange={(event) => setRange({ ...range, end: number(event.target.value) })} />
      <chakra.select {...SMALL} aria-label="Does" width="128px" value={range.attribute} onChange={(event) => setRange({ ...range, attribute: event.target.value })}>
        {attributes.filter((entry) => entry.shows || entry.name === range.attribute || /^(NoFeature|Control1|DimmerCurve|Effects1)$/.test(entry.name)).map((entry) => <option key={entry.name} value={entry.name}>{entry.words}</option>)}
      </chakra.select>
      <chakra.input {...SMALL} aria-label="Called" flex="1" minWidth="0" defaultValue={range.name} onChange={(event) => setRange({ ...range, name: event.target.value })} />
      <Action look="on" height="20px" onClick={take}>So it is</Action>
    </Flex>
  );
}
