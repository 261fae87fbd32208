import { beginOpening } from "../steps/site/opening";
import { seePatch } from "../steps/patch/view";
import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Overlaid } from "../kit/Overlaid";
import { isA } from "../kinds";
import { openExchange } from "../exchange/state";
import { openDraft, openLibrary } from "../shop/state";
import { toggleTool } from "../show/cutting";
import { carrySelected } from "../show/carrying";
import { useMonitor } from "../show/monitor";
import { compareRig, seeConsole, useConsoles } from "../show/consoles";
import { press, startSimulated, useSimulated } from "../show/simulated";
import { commandCapture } from "../show/capture";
import { askDoctor } from "../show/doctor";
import { called, settings, things, useShow } from "../show/document";
import { edit, redo, undo } from "../show/edits";
import { setPaneCount, setView, toggleLabels, usePanes } from "../show/panes";
import { editAtLength, stopJob, useJobs } from "../show/jobs";
import { refused } from "../show/messages";
import { beginAim } from "../show/pointing";
import { chosenLasers, laserIds, runFeed, testLasers, useLasers } from "../show/lasers";
import { nextLabels, runSelfTest, setWish, toggleMeasure, togglePicture } from "../show/picture";
import { beginArrange } from "../show/arranging";
import { many } from "../show/format";
import { turnSettling, useLooks, useSettling } from "../show/looks";
import { keepBefore } from "../show/compare";
import { beginDrawn } from "../show/notes";
import { LISTS, seeList, seeSheet } from "../show/papers";
import { nextLook, seeReview, toggleAsk, useReview } from "../show/review";
import { goTo, select, useSelection } from "../show/selection";
import { type Row, type Step, STEPS } from "../show/types";
import { playOrPause, duplicateSelected, nextLookIn, releaseHeld, removeSelected, toggleWorkLight } from "./keys";
import { STEP_VIEWS } from "./steps";

interface Entry {
  name: string;
  what: string;
  keys?: string;
  run: () => void;
}

const HOME_STEP: Record<string, Step> = { fixture: "hang", "focus point": "aim", palette: "aim", look: "looks", viewpoint: "review", area: "review", note: "review", show: "papers", type: "hang", connection: "signal", rack: "patch", sheet: "papers", supply: "papers", issue: "papers" };

/** What is done to the selection. Nothing is offered where nothing is selected. */
function onSelection(): Entry[] {
  const ids = useSelection.getState().selection;
  const { objects } = useShow.getState();
  if (!ids.length) return [];
  const what = many(ids.length, new Set(ids.map((id) => objects[id]?.kind)).size === 1 ? (objects[ids[0] ?? ""]?.kind ?? "thing") : "thing");
  const quietly = (work: Promise<unknown>): void => void work.catch((wrong: unknown) => refused(wrong));
  return [
    { name: `Duplicate ${what}`, what: "command", keys: "Ctrl+D", run: duplicateSelected },
    { name: `Arrange ${what} on a line, a ring, a grid or a rail`, what: "command", run: () => beginArrange(ids) },
    { name: `Mirror ${what} across the centre line`, what: "command", run: () => quietly(edit("mirror", { ids, keep: false })) },
    { name: `Mirror ${what}, as further ones`, what: "command", run: () => quietly(edit("mirror", { ids, keep: true }, { select: true })) },
    { name: `Drop ${what} on what is below`, what: "command", run: () => quietly(edit("drop", { ids })) },
    { name: `Aim ${what} by pointing`, what: "command", keys: "A", run: () => { goTo("aim"); beginAim(); } },
    ...things(objects, "focus point").map((one) => ({ name: `Aim ${what} at ${called(one)}`, what: "command", run: () => quietly(edit("aim at", { ids, focus: one.id })) })),
    ...things(objects, "palette").map((one) => ({ name: `Give ${what} the ${one.body.sort} ${called(one)}`, what: "command", run: () => quietly(edit("apply palette", { id: one.id, ids })) })),
    { name: `Flip ${what}: look there the other way round`, what: "command", run: () => quietly(edit("flip", { ids })) },
    { name: `Mirror the aim of ${what} from stage left to stage right`, what: "command", run: () => quietly(edit("mirror aims", { ids, source: "SL" })) },
    { name: `Let go of ${what}: the console or the look drives again`, what: "command", run: () => quietly(edit("release", { ids })) },
    { name: `Drag the blades of ${what} on the lit surface`, what: "command", keys: "G", run: () => { goTo("aim"); toggleTool("blades"); } },
    { name: `Carry ${what} to a slot of the map of universes`, what: "command", keys: "P", run: () => { goTo("patch"); carrySelected(); } },
    { name: `Carry ${what} to a dimmer`, what: "command", run: () => { goTo("patch"); seePatch("dimmers"); carrySelected(); } },
    { name: `Take the addresses of ${what} away`, what: "command", run: () => quietly(edit("unpatch", { ids })) },
    ...(["lift", "fly bar", "slider", "turntable", "spinner", "all six"] as const).flatMap((usual) => (ids.length === 1 && isA(objects[ids[0] ?? ""]?.kind, "carried") ? [{ name: `Let a console move what is selected: ${usual}`, what: "command", run: () => { goTo("hang"); quietly(edit("add driver", { thing: ids[0] ?? "", usual }, { select: true })); } }] : [])),
    ...(things(objects, "fixture").some((one) => one.body.drives) ? [{ name: `Keep the aim of ${what} while carried`, what: "command", run: () => quietly(edit("keep aim", { ids })) }] : []),
    ...(ids.length === 1 && objects[ids[0] ?? ""]?.kind === "wall" ? [{ name: "Cut a door or window in this wall", what: "command", run: () => { goTo("site"); beginOpening(ids[0] ?? ""); } }] : []),
  ];
}

/** What is done to the lasers that are selected, or to all of them; nothing where the show has none. */
function onLasers(): Entry[] {
  const all = laserIds();
  const ids = chosenLasers().length ? chosenLasers() : all;
  if (!all.length) return [];
  const what = many(ids.length, "laser");
  const quietly = (work: Promise<unknown>): void => void work.catch((wrong: unknown) => refused(wrong));
  const see = () => { goTo("aim"); select(ids); };
  const { feed } = useLasers.getState();
  return [
    { name: `Lasers: feeds, zones and what they may reach`, what: "command", run: see },
    { name: `Number the feeds of ${what} by place`, what: "command", run: () => quietly(edit("number feeds", { ids })) },
    { name: `Cut the zones of ${what} clear of people`, what: "command", run: () => { see(); quietly(edit("cut zones", { ids })); } },
    { name: `Test pattern on ${what}`, what: "command", run: () => { see(); void testLasers(ids, null); } },
    { name: `Verify ${what} one by one`, what: "command", run: () => { see(); void testLasers([], ids[0] ?? null); } },
    { name: feed?.running ? "Stop the simulated laser feed" : "Play the simulated laser feed", what: "command", run: () => void runFeed(feed?.running ? null : "mixed") },
  ];
}

function commands(onHistory: () => void): Entry[] {
  const show = settings(useShow.getState().objects);
  const steps = STEPS.map((step, i) => ({ name: `Go to ${STEP_VIEWS[step].name}`, what: "step", keys: `Alt+${i + 1}`, run: () => goTo(step) }));
  const pane = usePanes.getState().active;
  return [
    ...steps,
    ...onSelection(),
    ...onLasers(),
    { name: "History and restore points: go back, or name the show as it is", what: "command", run: onHistory },
    { name: "A type from a manual's channel table", what: "command", run: () => openLibrary() },
    { name: "Fixture types and the type shop", what: "command", run: () => openLibrary() },
    { name: "Exchange: take a scene in from an MVR file, fixtures from a CSV list", what: "command", run: openExchange },
    { name: "Exchange: give the scene out as MVR, its geometry as GLB, its fixtures as CSV", what: "command", run: openExchange },
    { name: "Undo", what: "command", keys: "Ctrl+Z", run: () => void undo() },
    { name: "Redo", what: "command", keys: "Ctrl+Shift+Z", run: () => void redo() },
    { name: "Let go of all that is held by hand", what: "command", keys: "Shift+X", run: () => releaseHeld(true) },
    { name: "Work light up or down", what: "command", keys: "W", run: toggleWorkLight },
    { name: show.follow_console ? "Stop following the console" : "Follow the console", what: "command", run: () => void edit("set show", { follow_console: !show.follow_console }).catch(() => undefined) },
    ...(show.playing ?? show.running ? [{ name: show.look_first ? "Let the console have the say over the look" : "Let the look have the say over the console", what: "command", run: () => void edit("set show", { look_first: !show.look_first }).catch(() => undefined) }] : []),
    { name: "Keep this picture as a look", what: "command", run: () => { goTo("looks"); void edit("keep look", {}).then((made) => useLooks.setState({ look: made.select?.[0] ?? "" }), () => undefined); } },
    { name: "Keep what is held by hand as a look", what: "command", run: () => { goTo("looks"); void edit("keep look", { what: "held" }).then((made) => useLooks.setState({ look: made.select?.[0] ?? "" }), () => undefined); } },
    { name: useSettling.getState().report.on ? "Stop keeping a look each time the picture settles" : "Keep a look each time the picture settles", what: "command", run: () => { goTo("looks"); void turnSettling(!useSettling.getState().report.on); } },
    { name: "Make a running order of all looks", what: "command", run: () => { goTo("looks"); void edit("add order", {}).then((made) => useLooks.setState({ view: "run", order: made.select?.[0] ?? "" }), () => undefined); } },
    { name: "All looks as pictures", what: "command", run: () => { goTo("looks"); useLooks.setState({ view: "looks" }); } },
    { name: "The running order over time", what: "command", run: () => { goTo("looks"); useLooks.setState({ view: "run" }); } },
    { name: "Play or pause the running order", what: "command", keys: "P", run: () => { goTo("looks"); playOrPause(); } },
    { name: "Compare the patch with a console's list", what: "command", run: () => goTo("patch") },
    { name: "Dimmers: what is on each, and its load", what: "command", run: () => { goTo("patch"); seePatch("dimmers"); } },
    { name: "Add a rack of dimmers", what: "command", run: () => { goTo("patch"); seePatch("dimmers"); void edit("add rack", {}, { select: true }).catch((wrong: unknown) => refused(wrong)); } },
    { name: "Ask the doctor why nothing moves", what: "command", run: () => { goTo("signal"); void askDoctor(); } },
    { name: "Ask the doctor whether the patch is shifted: listen for 30 s", what: "command", run: () => { goTo("signal"); void askDoctor(30); } },
    { name: "Find what moves when something is touched on the console", what: "command", run: () => { goTo("signal"); useMonitor.setState({ shown: true, finding: true }); } },
    { name: "See the levels that come in", what: "command", run: () => { goTo("signal"); useMonitor.setState({ shown: true }); } },
    { name: "Record what comes in for 10 s", what: "command", run: () => { goTo("signal"); void commandCapture({ do: "record", seconds: 10 }); } },
    { name: "Add a connection by sACN", what: "command", run: () => { goTo("signal"); void edit("add connection", {}, { select: true }).catch((wrong: unknown) => refused(wrong)); } },
    { name: "Add a connection by Art-Net", what: "command", run: () => { goTo("signal"); void edit("add connection", { protocol: "Art-Net" }, { select: true }).catch((wrong: unknown) => refused(wrong)); } },
    ...(show.only_connection ? [{ name: "Hear all connections again", what: "command", run: () => void edit("hear only", { id: null }).catch(() => undefined) }] : []),
    { name: "Who sees a place: every seat coloured", what: "command", keys: "S", run: () => { seeReview("house"); toggleAsk("sight"); } },
    { name: "Who lights a place", what: "command", keys: "H", run: () => { seeReview("light"); toggleAsk("light"); } },
    { name: "Light as numbers: measured areas", what: "command", run: () => seeReview("light") },
    { name: "Compare two looks: beside, wiped, blinking, what differs", what: "command", run: () => seeReview("compare") },
    { name: "Keep this picture as before, to compare with what it becomes", what: "command", run: () => { seeReview("compare"); void keepBefore(); } },
    { name: "Write a note", what: "command", run: () => seeReview("notes") },
    { name: "Draw on the picture, as a note", what: "command", run: () => { seeReview("notes"); void beginDrawn(); } },
    { name: "The look book: as one page or as PDF", what: "command", run: () => seeReview("book") },
    { name: "What changed since the last review", what: "command", run: () => seeReview("book") },
    { name: "Share with guests: who looks on from another device", what: "command", run: () => seeReview("share") },
    { name: "Make a sheet: a plan at a scale that fits", what: "command", run: () => void edit("add sheet", { look: "plan", paper: "A1" }).then((made) => seeSheet(made.select?.[0] ?? ""), () => undefined) },
    { name: "Issue the papers as the next revision", what: "command", run: () => { goTo("papers"); void edit("issue papers", { date: new Date().toISOString().slice(0, 10) }).catch((wrong: unknown) => refused(wrong)); } },
    ...LISTS.map((one) => ({ name: `List: ${one.label}`, what: "command", run: () => seeList(one.value) })),
    { name: "Recall the next look", what: "command", keys: "N", run: () => { goTo("review"); void nextLook(1).catch(() => undefined); } },
    { name: "Remove what is selected", what: "command", keys: "Delete", run: removeSelected },
    { name: "Frame the selection", what: "command", keys: "Z", run: () => usePanes.getState().stage?.frameSelection(pane) },
    { name: "The picture: quality, exposure, haze", what: "command", keys: "E", run: togglePicture },
    { name: "Numbers on the picture", what: "command", keys: "L", run: nextLabels },
    { name: "Look in: walls that stand in the way", what: "command", keys: "I", run: nextLookIn },
    { name: "Labels in this pane, or none", what: "command", run: () => toggleLabels(pane) },
    { name: "Measure between two places", what: "command", keys: "M", run: toggleMeasure },
    { name: "Test what this machine carries", what: "command", run: () => void runSelfTest() },
    ...(["Build", "Air", "Pattern", "Depth"] as const).map((step) => ({ name: `Quality: ${step}`, what: "command", run: () => setWish({ step }) })),
    { name: "Quality: auto", what: "command", run: () => setWish({ step: "auto" }) },
    { name: "View: back", what: "command", keys: "V B", run: () => setView(pane, "back") },
    { name: "View: section on the centre line", what: "command", keys: "V C", run: () => setView(pane, "section") },
    { name: "View: plan", what: "command", keys: "V P", run: () => setView(pane, "plan") },
    { name: "View: free", what: "command", keys: "V S", run: () => setView(pane, "free") },
    { name: "View: front", what: "command", keys: "V F", run: () => setView(pane, "front") },
    ...[1, 2, 3].map((count) => ({ name: `Show ${count} pane${count > 1 ? "s" : ""}`, what: "command", run: () => setPaneCount(count) })),
    { name: "Thin the crowds for the named viewpoints", what: "command", run: () => void editAtLength("thin crowds", {}).catch((wrong: unknown) => refused(wrong)) },
    ...useJobs.getState().jobs.filter((job) => job.state === "running").map((job) => ({ name: `Stop: ${job.name}`, what: "command", run: () => void stopJob(job.id) })),
    { name: "Start a simulated console with this patch", what: "command", run: () => { goTo("signal"); void startSimulated().then((key) => key && seeConsole({ of: "simulated", key })); } },
    { name: "Start an empty simulated console", what: "command", run: () => { goTo("signal"); void startSimulated({ patch: false }).then((key) => key && seeConsole({ of: "simulated", key })); } },
    ...(useSimulated.getState().report?.consoles ?? []).map((one) => ({ name: `Shut ${one.name} down`, what: "command", run: () => void press(one.key, { do: "end" }) })),
    ...(useConsoles.getState().report?.consoles ?? []).map((one) => ({ name: `Offer the rig to ${one.name}`, what: "command", run: () => { goTo("signal"); seeConsole({ of: "offer", key: one.key }); } })),
    ...(useConsoles.getState().report?.consoles ?? []).filter((one) => one.rigs.length).map((one) => ({ name: `Compare the rig with ${one.name}'s`, what: "command", run: () => void compareRig(one) })),
    { name: "Check the line: intensity, colour and position of each fixture", what: "command", run: () => { goTo("signal"); seeConsole({ of: "check" }); } },
    { name: show.spare_console ? "Leave no room for a console on this machine" : "Leave room for a console on this machine", what: "command", run: () => void edit("set show", { spare_console: !show.spare_console }).catch(() => undefined) },
  ];
}

function found(row: Row): Entry {
  const name = row.kind === "fixture" ? `${row.body.drives ? "Driver" : "Fixture"} ${called(row)}` : called(row);
  return {
    name,
    what: row.kind,
    run: () => {
      if (row.kind === "draft") {
        openDraft(row.id);
        return;
      }
      if (row.kind === "type") {
        openLibrary();
        return;
      }
      if (row.kind === "rack") seePatch("dimmers");
      if (row.kind === "look") useLooks.setState({ look: row.id, steps: [], view: "looks" });
      if (row.kind === "area") useReview.setState({ view: "light", area: row.id, map: null });
      if (row.kind === "note") useReview.setState({ view: "notes", note: row.id });
      if (row.kind === "order") useLooks.setState({ order: row.id, view: "run" });
      if (row.kind === "sheet") seeSheet(row.id);
      if (row.kind === "supply") seeList("cables");
      goTo(HOME_STEP[row.kind] ?? "site");
      select([row.id]);
    },
  };
}

/** Find a thing or do a command: all commands are here, with their keys. */
export function FindDo({ onClose, onHistory }: { onClose: () => void; onHistory: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const objects = useShow((state) => state.objects);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const all = [...commands(onHistory), ...Object.values(objects).filter((row) => row.kind !== "show" && row.kind !== "received").map(found)];
  const entries = all.filter((entry) => words.every((word) => `${entry.name} ${entry.what}`.toLowerCase().includes(word))).slice(0, 40);
  const take = (entry: Entry | undefined) => {
    if (!entry) return;
    onClose();
    entry.run();
  };
  return (
    <Overlaid label="Find or do" onClose={onClose}>
      <chakra.input
        autoFocus
        aria-label="What to find or do"
        placeholder="A fixture, a look, a seat, a command"
        bg="ink1"
        width="100%"
        px="16px"
        py="11px"
        fontSize="14px"
        outline="none"
        borderBottom="1px solid {colors.line}"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(at + 1, entries.length - 1));
          else if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (event.key === "Enter") take(entries[at]);
          else return;
          event.preventDefault();
        }}
      />
      <Box role="listbox" aria-label="Found">
        {entries.map((entry, i) => (
          <Flex
            key={`${entry.what} ${entry.name} ${i}`}
            role="option"
            aria-selected={i === at}
            bg={i === at ? "ink3" : "transparent"}
            px="16px"
            py="5px"
            gap="12px"
            fontSize="12.5px"
            cursor="pointer"
            onMouseEnter={() => setAt(i)}
            onClick={() => take(entry)}
          >
            <Box flex="1">{entry.name}</Box>
            <Box color="faint">{entry.what}</Box>
            {entry.keys && (
              <Box color="dim" fontFamily="mono" fontSize="11px">
                {entry.keys}
              </Box>
            )}
          </Flex>
        ))}
        {!entries.length && (
          <Box px="16px" py="12px" color="dim">
            Nothing is called that. Try a number, a name or a part of one.
          </Box>
        )}
      </Box>
    </Overlaid>
  );
}
