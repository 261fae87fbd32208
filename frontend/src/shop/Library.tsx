import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import Fuse from "fuse.js";
import { Bookmark, Search } from "lucide-react";
import { useState } from "react";
import { Action, Choice, Section, Sign } from "../kit/controls";
import { things, useShow } from "../show/document";
import { many } from "../show/format";
import type { TypeOut } from "../show/types";
import { type Draft, KINDS } from "./draft";
import { startFromText } from "./reading";
import { addLooked, addShipped, leaveShop, type LibraryEntry, lookAt, openDraft, startDraft, toggleFavourite, useShop } from "./state";

type Filter = "all" | "favourites" | "in this show";
export interface Card {
  key: string;
  typeId: string;
  name: string;
  maker: string;
  about: string;
  /** What it is, and all that it is found by. */
  sort: string;
  words: string;
  modes: { name: string; slots: number }[];
  picture: string;
  inShow: string | null;
  used: number;
  shipped: LibraryEntry | null;
}

function cardsOf(types: Record<string, TypeOut>, library: readonly LibraryEntry[], used: Record<string, number>, show: string): Card[] {
  const own = Object.entries(types).map(([id, type]): Card => ({
    key: id, typeId: type.type_id, name: type.name, maker: type.maker, about: `${type.weight_kg} kg`, sort: type.sort, words: type.words, inShow: id, used: used[id] ?? 0, shipped: null,
    modes: type.modes.map((mode) => ({ name: mode.name, slots: mode.breaks.reduce((sum, one) => sum + one.slots, 0) })), picture: `/api/shows/${show}/types/${id}/picture`,
  }));
  const have = new Set(own.map((one) => one.typeId));
  const rest = library.filter((one) => !have.has(one.type_id)).map((one): Card => ({
    key: one.type_id, typeId: one.type_id, name: one.name, maker: one.maker, about: `${one.weight_kg} kg, ${one.power_w} W`, sort: one.sort, words: one.words, inShow: null, used: 0, shipped: one,
    modes: one.modes.map((mode) => ({ name: mode.name, slots: mode.footprint })), picture: `/api/library/${one.type_id}/picture`,
  }));
  return [...own, ...rest].sort((a, b) => a.maker.localeCompare(b.maker) || a.name.localeCompare(b.name));
}

/** The cards that typed words mean, typing errors forgiven; all where nothing is typed. */
export function searched(cards: Card[], text: string): Card[] {
  const typed = text.trim().toLowerCase();
  if (!typed) return cards;
  const wordings = cards.map((card) => ({ card, text: `${card.maker} ${card.name} ${card.sort} ${card.words} ${card.modes.map((mode) => mode.name).join(" ")}`.toLowerCase() }));
  const exact = wordings.filter((one) => typed.split(/\s+/).every((word) => one.text.includes(word)));
  if (exact.length) return exact.map((one) => one.card);
  const fuse = new Fuse(wordings, { keys: ["text"], threshold: 0.3, ignoreLocation: true, useExtendedSearch: true, minMatchCharLength: 2 });
  return fuse.search(typed).map((one) => one.item.card);
}

/** All types at a glance: those of this show and those that ship, by maker and name. */
export function Library() {
  const types = useShow((state) => state.types);
  const objects = useShow((state) => state.objects);
  const show = useShow((state) => state.id);
  const { library, favourites } = useShop();
  const [text, setText] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const used: Record<string, number> = {};
  for (const fixture of things(objects, "fixture")) used[fixture.body.type] = (used[fixture.body.type] ?? 0) + 1;
  const cards = searched(cardsOf(types, library, used, show ?? ""), text).filter((one) => filter === "all" || (filter === "favourites" ? favourites.includes(one.typeId) : one.inShow !== null));
  const makers = [...new Set(cards.map((one) => one.maker))];
  return (
    <Grid templateColumns="minmax(0, 1fr) 308px" minHeight="0" height="100%">
      <Flex direction="column" minHeight="0" minWidth="0">
        <Flex align="center" gap="10px" px="14px" height="46px" flex="none" borderBottom="1px solid" borderColor="line">
          <Box as="h1" fontSize="14px" fontWeight={650}>Fixture types</Box>
          <Flex align="center" gap="6px" bg="ink1" border="1px solid" borderColor="line" borderRadius="5px" px="8px" height="28px" width="260px" color="faint">
            <Search size={13} />
            <chakra.input aria-label="Search types" placeholder="Maker, name, kind: led batten …" autoFocus bg="transparent" flex="1" outline="none" fontSize="12.5px" color="text" value={text} onChange={(event) => setText(event.target.value)} />
          </Flex>
          {(["all", "favourites", "in this show"] as const).map((one) => (
            <Action key={one} look={filter === one ? "on" : "quiet"} height="26px" aria-pressed={filter === one} onClick={() => setFilter(one)}>{one}</Action>
          ))}
          <Box flex="1" />
          <Action onClick={leaveShop}>Back to the show</Action>
        </Flex>
        <Box overflowY="auto" flex="1" minHeight="0" px="14px" py="10px">
          {!cards.length && <Box color="dim" py="20px">Nothing here is called that. Drop a GDTF file on the window, or begin a type of your own on the right.</Box>}
          {makers.map((maker) => (
            <Box key={maker} mb="14px">
              <Box as="h2" fontSize="11px" fontWeight={600} color="faint" letterSpacing="0.05em" mb="6px">{maker}</Box>
              <Grid templateColumns="repeat(auto-fill, minmax(250px, 1fr))" gap="8px">
                {cards.filter((one) => one.maker === maker).map((one) => <TypeCard key={one.key} card={one} favourite={favourites.includes(one.typeId)} />)}
              </Grid>
            </Box>
          ))}
        </Box>
      </Flex>
      <Box bg="ink2" borderLeft="1px solid" borderColor="line" overflowY="auto">
        <Begin />
        <TakeIn />
      </Box>
    </Grid>
  );
}

function TypeCard({ card, favourite }: { card: Card; favourite: boolean }) {
  return (
    <Flex data-type={card.name} bg="ink2" border="1px solid" borderColor={card.inShow ? "verdigrisDeep" : "line"} borderRadius="6px" p="10px" gap="10px" minHeight="104px">
      <chakra.img src={card.picture} alt={`The body of ${card.name}`} width="72px" height="72px" flex="none" alignSelf="center" loading="lazy" />
      <Flex direction="column" flex="1" minWidth="0">
        <Flex align="center" gap="4px">
          <Box fontWeight={650} fontSize="13px" flex="1" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">{card.name}</Box>
          <Action look="quiet" height="20px" px="2px" aria-pressed={favourite} aria-label={favourite ? `${card.name} is a favourite` : `Make ${card.name} a favourite`} color={favourite ? "brass" : "faint"} onClick={() => toggleFavourite(card.typeId)}>
            <Bookmark size={13} fill={favourite ? "currentColor" : "none"} />
          </Action>
        </Flex>
        <Box fontSize="11.5px" color="dim" flex="1">
          {card.sort.toLowerCase() !== card.name.toLowerCase() && <Box color="text">{card.sort}</Box>}
          {card.modes.slice(0, 3).map((mode) => `${mode.name} ${mode.slots}`).join(" · ")}
          {card.modes.length > 3 ? ` and ${card.modes.length - 3} more` : ""}
          <Box color="faint">{card.inShow ? (card.used ? `${many(card.used, "fixture")} in this show` : "in this show, not hung yet") : card.about}</Box>
        </Box>
        <Flex gap="4px" wrap="wrap" mt="4px">
          {card.shipped ? (
            <Action height="22px" fontSize="11.5px" onClick={() => void addShipped(card.shipped as LibraryEntry)}>Add to the show</Action>
          ) : (
            <>
              <Action height="22px" fontSize="11.5px" onClick={() => void startDraft({ of_type: card.inShow ?? "", change: true })}>Change</Action>
              <Action height="22px" fontSize="11.5px" onClick={() => void startDraft({ of_type: card.inShow ?? "" })}>Copy</Action>
              <chakra.a href={`/api/shows/${useShow.getState().id}/types/${card.inShow}/gdtf`} fontSize="11.5px" color="dim" alignSelf="center" textDecoration="underline">GDTF</chakra.a>
            </>
          )}
        </Flex>
      </Flex>
    </Flex>
  );
}

/** A GDTF file, chosen or dropped on the window: looked at first, then added. */
function TakeIn() {
  const looked = useShop((state) => state.looked);
  const { read, wrong } = looked ?? { read: null, wrong: null };
  return (
    <Section title="Take in a GDTF file">
      <Box fontSize="12px" color="dim" mb="6px">Drop one anywhere on the window, or choose it.</Box>
      <chakra.input
        type="file" accept=".gdtf" aria-label="A GDTF file" fontSize="12px" color="dim" mb="6px" width="100%"
        css={{ "&::file-selector-button": { background: "{colors.ink3}", color: "{colors.text}", border: "1px solid {colors.line}", borderRadius: "5px", padding: "4px 10px", marginRight: "8px", cursor: "pointer" } }}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void lookAt(file);
        }}
      />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      {read && (
        <Flex direction="column" gap="4px" fontSize="12px" role="region" aria-label="What the file holds">
          <Box fontWeight={600}>{read.name}, {read.maker}</Box>
          {read.modes.map((mode) => <Box key={mode.name} color="dim">{mode.name}: {many(mode.footprint, "slot")}</Box>)}
          {read.findings.map((one, i) => <Sign key={i} tone="attention">{one.where}: {one.what}; {one.done}.</Sign>)}
          <Action look="main" mt="4px" onClick={() => void addLooked()}>
            Add {read.name} to the show
          </Action>
        </Flex>
      )}
    </Section>
  );
}

/** Drafts that were begun, and a new one of a kind. */
function Begin() {
  const objects = useShow((state) => state.objects);
  const [kind, setKind] = useState<Draft["kind"]>("moving head");
  const [text, setText] = useState("");
  const drafts = things(objects, "draft");
  return (
    <Section title="Make a type">
      {drafts.map((one) => (
        <Flex key={one.id} align="center" gap="8px" mb="4px" fontSize="12.5px">
          <Box flex="1" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">{one.body.name}, {one.body.maker}</Box>
          <Action height="24px" onClick={() => openDraft(one.id)}>Go on</Action>
        </Flex>
      ))}
      <Choice label="A new" value={kind} options={KINDS} onChange={setKind} />
      <chakra.textarea
        aria-label="A manual's channel table" value={text} onChange={(event) => setText(event.target.value)} rows={5} width="100%" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" p="6px 8px" fontSize="11.5px" fontFamily="mono" resize="vertical"
        wrap="off" spellCheck={false} _placeholder={{ color: "faint" }} placeholder={"Paste its manual’s\nchannel table here"}
      />
      <Flex gap="6px" mt="4px" wrap="wrap">
        <Action look={text.trim() ? "main" : "plain"} width={text.trim() ? "100%" : "auto"} onClick={() => void startFromText(kind, text)}>Read its manual</Action>
        <Action look={text.trim() ? "quiet" : "main"} width="auto" flex={text.trim() ? "none" : "1"} onClick={() => void startDraft({ kind })}>Begin a {kind}</Action>
      </Flex>
    </Section>
  );
}
