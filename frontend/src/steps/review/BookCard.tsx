import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Choice, FileField, Progress, Section, Sign } from "../../kit/controls";
import { BOOK_QUALITIES, BOOK_SIZES, closeReview, drawBook, getReview, looksOfBook, missingPictures, readSent, saveBook, useBook, viewsOfBook } from "../../show/book";
import { useShow } from "../../show/document";
import { many } from "../../show/format";
import { notify } from "../../show/messages";
import { select } from "../../show/selection";
import type { ReviewReport } from "../../show/types";

/** The look book: its pictures are drawn in the background, then it is saved; notes of its readers are read in. */
export function BookCard() {
  useShow((state) => state.pictures);
  useShow((state) => state.stand);
  const { size, quality, changes, making, stopping } = useBook();
  const missing = missingPictures().length;
  const [looks, views] = [looksOfBook().length, viewsOfBook().length];
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600} mb="2px">
          Look book
        </Box>
        <Box fontSize="12px" color="dim" mb="8px">
          {many(looks, "look")} from {many(views, "viewpoint")}: {many(looks * views, "picture")}, {missing ? `${missing} still to be drawn` : "all of them drawn"}
        </Box>
        <Choice label="Pictures" value={size} options={Object.keys(BOOK_SIZES) as (keyof typeof BOOK_SIZES)[]} onChange={(value) => useBook.setState({ size: value })} />
        <Choice label="Made" value={quality} options={BOOK_QUALITIES} onChange={(value) => useBook.setState({ quality: value })} />
        {making ? (
          <Box fontSize="12px">
            <Flex align="center" gap="8px">
              <Progress label="Pictures of the book" share={making.done / Math.max(making.of, 1)} />
              <Action look="quiet" disabled={stopping} onClick={() => useBook.setState({ stopping: true })}>{stopping ? "Stopping" : "Stop drawing"}</Action>
            </Flex>
            <Box color="dim">{making.done + 1} of {making.of}: {making.what}</Box>
          </Box>
        ) : (
          <Action look={missing ? "main" : undefined} disabled={!missing} onClick={() => void drawBook()}>
            {missing ? `Draw ${many(missing, "picture")}` : "All pictures are drawn"}
          </Action>
        )}
        <chakra.label display="flex" gap="6px" alignItems="center" fontSize="12px" my="8px">
          <input type="checkbox" checked={changes} onChange={(event) => useBook.setState({ changes: event.target.checked })} />
          Say what changed since the last review
        </chakra.label>
        <Flex gap="6px">
          <Action flex="1" title="One file that opens in any browser, without this program or a network" onClick={() => void saveBook("html")}>Save as one page</Action>
          <Action flex="1" onClick={() => void saveBook("pdf")}>Save as PDF</Action>
        </Flex>
      </Section>
      <Sent />
      <Since />
    </>
  );
}

/** What a reader of the page has written, as the file that they saved. */
function Sent() {
  const [read, setRead] = useState<{ file: File; said: string } | null>(null);
  const look = (file: File) => void readSent(file, false).then(({ sentence, report }) => setRead({ file, said: [sentence, ...report].join(" ") }), (wrong: unknown) => { setRead(null); notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong"); });
  const take = () => read && void readSent(read.file, true).then(({ sentence }) => { setRead(null); notify(`${sentence}.`); }, (wrong: unknown) => notify(String(wrong), "wrong"));
  return (
    <Section title="What readers sent back">
      <FileField label="A file of notes on the book" accept=".json,application/json" onFile={look} />
      {read && (
        <>
          <Box fontSize="12px" mb="6px">{read.said}</Box>
          <Action look="main" onClick={take}>Take these notes in</Action>
        </>
      )}
    </Section>
  );
}

/** What changed since the last review, and the end of this one. */
function Since() {
  const rev = useShow((state) => state.rev);
  const show = useShow((state) => state.id);
  const pictures = useShow((state) => state.pictures);
  const [report, setReport] = useState<ReviewReport | null>(null);
  const [asked, setAsked] = useState(0);
  useEffect(() => {
    let alive = true;
    void getReview().then((found) => alive && setReport(found), () => undefined);
    return () => {
      alive = false;
    };
  }, [rev, show, asked]);
  const close = () => void closeReview().then(({ name }) => { notify(`${name}: kept as a restore point. What changes from now on is told against it.`); setAsked(asked + 1); }, (wrong: unknown) => notify(String(wrong), "wrong"));
  return (
    <Section title={report?.name ? `Since the ${report.name[0]?.toLowerCase() ?? ""}${report.name.slice(1)}` : "What changed"}>
      {report && !report.name && <Box fontSize="12px" color="dim" mb="6px">No review was closed yet. Close this one, and what changes after it is listed here and in the book.</Box>}
      {report?.name && !report.changes.length && <Sign tone="fine">Nothing has changed since.</Sign>}
      <Box as="ul" listStyleType="none" m="0" p="0" fontSize="12px" maxHeight="210px" overflowY="auto" tabIndex={0} aria-label="What changed">
        {report?.changes.map((one) => (
          <Box as="li" key={one.text} mb="4px">
            <chakra.button type="button" textAlign="left" cursor="pointer" _hover={{ color: "brass" }} onClick={() => select(one.ids)}>{one.text}</chakra.button>
            {one.sort === "look" && pictures[`${one.ids[0] ?? ""} before`] && (
              <Flex gap="4px" mt="2px">
                <img src={`/api/shows/${show}/looks/${one.ids[0] ?? ""}/seen?viewpoint=before`} alt="Before" width="112" />
                {pictures[one.ids[0] ?? ""] && <img src={`/api/shows/${show}/looks/${one.ids[0] ?? ""}/picture?made_of=${encodeURIComponent(pictures[one.ids[0] ?? ""] ?? "")}`} alt="Now" width="112" />}
              </Flex>
            )}
          </Box>
        ))}
      </Box>
      <Action onClick={close}>Close this review</Action>
    </Section>
  );
}
