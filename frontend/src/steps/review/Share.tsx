import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Empty, Section, Sign } from "../../kit/controls";
import { who } from "../../show/document";
import { many } from "../../show/format";
import { share, useSharing } from "../../show/sharing";

const reachable = (link: string): boolean => !/\/\/(127\.|localhost)/.test(link);

/** Where guests open it, and who is there. */
export function Share() {
  const { report } = useSharing();
  if (!report.on) return <Empty>Others look on from a phone or a tablet: they see what the free pane shows here, or look by look what was drawn for the book. Nothing is open to other devices before it is shared with the card.</Empty>;
  const [link = ""] = report.links;
  return (
    <Flex flex="1" minHeight="0" gap="20px" p="12px 16px" overflow="auto">
      <img src={`data:image/svg+xml;utf8,${encodeURIComponent(report.qr.replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"'))}`} alt={`The guests' address as a QR code: ${link}`} style={{ height: "100%", maxHeight: "260px", minHeight: "120px" }} />
      <Box minWidth="0" flex="1" fontSize="12.5px">
        <Box color="dim">Guests open</Box>
        {report.links.map((one) => <Box key={one} fontFamily="mono" css={{ overflowWrap: "anywhere", userSelect: "all" }}>{one}</Box>)}
        {!reachable(link) && <Sign tone="attention">This machine has no address that other devices reach: connect it to a network, and share anew.</Sign>}
        <Box as="h3" fontSize="12.5px" fontWeight={600} mt="10px">{report.guests.length ? `${many(report.guests.length, "guest")} there` : "Nobody is there yet"}</Box>
        <Box as="ul" listStyleType="none" m="0" p="0">
          {report.guests.map((guest, i) => (
            <li key={`${guest.name} ${i}`}>
              {guest.name} <chakra.span color="dim">{guest.address}, {guest.minutes ? `for ${guest.minutes} min` : "just came"}</chakra.span>
            </li>
          ))}
        </Box>
      </Box>
    </Flex>
  );
}

/** Begin to share, and end it: then all guests are out. */
export function ShareCard() {
  const { report } = useSharing();
  const [notes, setNotes] = useState(false);
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600} mb="2px">
        Beside others
      </Box>
      <Box fontSize="12px" color="dim" mb="8px" role="status">
        {report.on ? `Shared: ${many(report.guests.length, "guest")}, ${report.presenter === who || !report.presenter ? "they see what you show" : "somebody else presents"}${report.notes ? ", and may write notes" : ""}` : "Not shared: nothing is open to other devices"}
      </Box>
      {report.on ? (
        <Action look="main" onClick={() => void share(false, false)}>End sharing</Action>
      ) : (
        <>
          <chakra.label display="flex" gap="6px" alignItems="center" fontSize="12px" mb="8px">
            <input type="checkbox" checked={notes} onChange={(event) => setNotes(event.target.checked)} />
            Guests may write notes
          </chakra.label>
          <Action look="main" onClick={() => void share(true, notes)}>Share with guests</Action>
        </>
      )}
      <Box color="faint" fontSize="11.5px" mt="8px">
        Whoever has the link looks on, and can change nothing. With the end of sharing the link ends; the next one is another.
      </Box>
    </Section>
  );
}
