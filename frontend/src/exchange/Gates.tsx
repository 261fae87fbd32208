import { Box, chakra, Flex, Grid, VisuallyHidden } from "@chakra-ui/react";
import { useEffect } from "react";
import { Action, FileField, Section, Segments, Sign } from "../kit/controls";
import { useShow } from "../show/document";
import { many } from "../show/format";
import { useSelection } from "../show/selection";
import { addList, leaveExchange, lookAtList, lookAtScene, putAway, queryOf, seeOffer, useExchange, type Wish, wishFor } from "./state";

const LINK = {
  display: "flex", alignItems: "center", justifyContent: "center", height: "32px", borderRadius: "5px", bg: "ink3", border: "1px solid",
  borderColor: "line", fontSize: "12.5px", fontWeight: 550, mb: "6px", _hover: { bg: "line" },
} as const;
const megabytes = (bytes: number): string => (bytes < 100_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** The two ways: a file in, to be looked at first; the show's scene out. */
export function Gates() {
  useEffect(() => void seeOffer(), []);
  return (
    <Grid height="100%" minHeight="0" templateRows="46px minmax(0, 1fr)" templateColumns="minmax(0, 1fr) minmax(0, 1fr)">
      <Flex gridColumn="1 / 3" align="center" gap="10px" px="14px" borderBottom="1px solid" borderColor="line" bg="ink2">
        <Box as="h1" fontSize="14px" fontWeight={650}>Exchange</Box>
        <Box color="dim" fontSize="12px">Scenes, fixtures and geometry from other programs and to them</Box>
        <Box flex="1" />
        <Action onClick={leaveExchange}>Back to the show</Action>
      </Flex>
      <Box overflowY="auto" minHeight="0" borderRight="1px solid" borderColor="line" as="section" aria-label="In">
        <VisuallyHidden asChild><h2>In</h2></VisuallyHidden>
        <In />
      </Box>
      <Box overflowY="auto" minHeight="0" as="section" aria-label="Out">
        <VisuallyHidden asChild><h2>Out</h2></VisuallyHidden>
        <Out />
      </Box>
    </Grid>
  );
}

function In() {
  const { wrong, list, taken } = useExchange();
  return (
    <Box maxWidth="560px">
      <Section title="A scene in">
        <Box color="dim" fontSize="12.5px" mb="8px">An MVR file of a drawing office or a console, chosen here or dropped anywhere on the window. It is put beside the show first: nothing changes before you say so.</Box>
        <FileField label="An MVR file" accept=".mvr" onFile={(file) => void lookAtScene(file)} />
        {wrong && <Sign tone="wrong">{wrong}</Sign>}
      </Section>
      <Section title="Fixtures from a list">
        <Box color="dim" fontSize="12.5px" mb="8px">A CSV with Type and, as far as they are known, Mode, Number, Universe, Address and x, y, z. They are added to those that are here.</Box>
        <FileField label="A CSV list" accept=".csv,.txt,.tsv" onFile={(file) => void lookAtList(file)} />
        {list && <ListSeen />}
        {taken && !list && (
          <Box role="status">
            <Sign tone="fine">{taken.sentence}.</Sign>
            {taken.report.map((line, i) => <Sign key={i} tone="attention">{line}</Sign>)}
          </Box>
        )}
      </Section>
    </Box>
  );
}

/** A list that was read: what its columns say, what its types come to, and which rows are none. */
function ListSeen() {
  const list = useExchange((state) => state.list);
  if (!list) return null;
  return (
    <Box role="region" aria-label="What the list holds" fontSize="12px">
      <Box color="dim" mb="6px">{list.name}: {Object.entries(list.columns).map(([field, heading]) => `${field} is “${heading}”`).join(", ")}.</Box>
      {list.types.map((one) => <Sign key={one.name} tone="fine">{many(one.rows, "row")} of {one.name}: {one.becomes}, {one.reason}.</Sign>)}
      {list.left_out.map((line) => <Sign key={line} tone="attention">Left out: {line}</Sign>)}
      <Flex gap="6px" mt="8px">
        <Action look="main" disabled={!list.rows.length} onClick={() => void addList()}>Add {many(list.rows.length, "fixture")}</Action>
        <Action look="quiet" onClick={putAway}>Leave it</Action>
      </Flex>
    </Box>
  );
}

const ONLY: readonly { value: Wish["only"]; label: string; says: string }[] = [
  { value: "all", label: "All of it", says: "Everything that has a place" },
  { value: "shown", label: "What is shown", says: "Without layers that are hidden" },
  { value: "selected", label: "What is selected", says: "The selection, and what is on its carriers" },
];

function Out() {
  const { wish, offer } = useExchange();
  const show = useShow((state) => state.id);
  const selection = useSelection((state) => state.selection);
  const none = wish.only === "selected" && !selection.length;
  const query = queryOf(wish);
  return (
    <Box maxWidth="560px">
      <Section title="The scene out">
        <Segments name="What goes out" value={wish.only} options={ONLY} onChange={(only) => wishFor({ only })} />
        <chakra.label display="flex" gap="8px" alignItems="center" fontSize="12.5px" mb="8px" cursor="pointer">
          <chakra.input type="checkbox" accentColor="{colors.brass}" checked={wish.people} onChange={() => wishFor({ people: !wish.people })} />
          The audience too, as figures
        </chakra.label>
        {none ? <Sign tone="attention">Nothing is selected: select on the stage first, or let all of it go out.</Sign> : offer && (
          <Box fontSize="12.5px" mb="8px" role="status">
            {many(offer.fixtures, "fixture")} of {many(offer.types, "type")}, {many(offer.structures, "structure")}, {many(offer.others, "other thing")}: <Box as="span" fontFamily="mono" fontSize="12px">{megabytes(offer.bytes)}</Box>
            {offer.left_out.map((one) => <Sign key={one.what + one.why} tone="attention">Left out: {one.what}, {one.why}.</Sign>)}
          </Box>
        )}
        <chakra.a {...LINK} bg="brass" color="onBrass" borderColor="brass" _hover={{ bg: "{colors.brass/88}" }} aria-disabled={none} href={none ? undefined : `/api/shows/${show}/scene.mvr${query}`} download>
          Save as MVR
        </chakra.a>
        <Box color="faint" fontSize="11.5px">With types as GDTF, every address, focus points and gels. What this program alone knows of structures and scenery goes along, so that it can be edited when it comes back.</Box>
      </Section>
      <Section title="Geometry and lists out">
        <chakra.a {...LINK} href={`/api/shows/${show}/scene.glb${query}`} download>Save the geometry as GLB</chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${show}/papers/fixtures.csv`} download>Save all fixtures as CSV</chakra.a>
        <Box color="faint" fontSize="11.5px">The geometry has no lights: the set, structures and lamps in metres, upright in any viewer.</Box>
      </Section>
    </Box>
  );
}
