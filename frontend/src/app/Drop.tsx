import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { lookAtList, lookAtScene } from "../exchange/state";
import { Overlaid } from "../kit/Overlaid";
import { Action, Section, Sign } from "../kit/controls";
import { openLibrary, takeImage, takePhotometry, useShop } from "../shop/state";
import { sendFile } from "../show/api";
import { bringRecording } from "../show/capture";
import { compareList } from "../show/compared";
import { useDropped } from "../show/dropped";
import { chosenLasers, drawFile } from "../show/lasers";
import { notify } from "../show/messages";
import { goTo } from "../show/selection";

const PEEK = 64 * 1024;

/** What can be done with a file, as the desk names it: what the button says, and the doing; nothing where it cannot be done now. */
function done(use: string, file: File): { says: string; run: () => void } | null {
  const inShop = useShop.getState().screen === "draft";
  const onStep = (step: "site" | "patch" | "signal" | "aim", after: () => void) => () => {
    goTo(step);
    after();
  };
  switch (use) {
    case "open show":
      return { says: "Open it in place of this show", run: () => void sendFile("/api/take", {}, file).then(() => location.reload(), (wrong: unknown) => notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong")) };
    case "compare scene":
      return { says: "Put it beside the show", run: () => void lookAtScene(file) };
    case "look at type":
      return { says: "Look at the type", run: () => openLibrary(file) };
    case "base drawing":
      return { says: "Look at it as a base drawing", run: onStep("site", () => useDropped.setState({ file, use })) };
    case "set piece":
      return { says: "Look at it as a set piece", run: onStep("site", () => useDropped.setState({ file, use })) };
    case "compare patch":
      return { says: "Compare it with the patch", run: onStep("patch", () => void compareList(file)) };
    case "add fixtures":
      return { says: "Look at the fixtures in it", run: () => void lookAtList(file) };
    case "play recording":
      return { says: "Look at it as a recording", run: onStep("signal", () => void bringRecording(file)) };
    case "gobo":
      return inShop ? { says: "Keep it for the wheels", run: () => void takeImage(file).then((taken) => taken && notify(`${file.name} can be chosen for a slot now.`)) } : null;
    case "measured light":
      return inShop ? { says: "Let the lens shine by it", run: () => void takePhotometry(file) } : null;
    case "draw frames": {
      const ids = chosenLasers();
      return ids.length ? { says: `Let ${ids.length === 1 ? "this laser" : `these ${ids.length} lasers`} draw it`, run: onStep("aim", () => void drawFile(ids, file)) } : null;
    }
    default:
      return null;
  }
}

/** Any file may be dropped anywhere on the window: it is said what it is, and what can be done with it. */
export function Drop() {
  const [over, setOver] = useState(false);
  const [found, setFound] = useState<{ file: File; says: string; uses: string[] } | null>(null);
  useEffect(() => {
    const files = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const drag = (event: DragEvent) => {
      if (!files(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const drop = (event: DragEvent) => {
      if (!files(event)) return;
      event.preventDefault();
      setOver(false);
      const file = event.dataTransfer?.files[0];
      if (!file) return;
      const peek = new File([file.slice(0, PEEK), file.slice(Math.max(0, file.size - PEEK))], file.name);
      void sendFile("/api/what", {}, peek).then((known) => setFound({ file, ...known }), (wrong: unknown) => notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong"));
    };
    window.addEventListener("dragover", drag);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", drag);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  const ways = found ? found.uses.flatMap((use) => done(use, found.file) ?? []) : [];
  return (
    <>
      {over && (
        <Flex position="fixed" inset="0" zIndex={30} align="center" justify="center" bg="ink0/70" pointerEvents="none" color="brass" fontSize="15px" border="2px solid" borderColor="brass">
          Drop the file: it is looked at first
        </Flex>
      )}
      {found && (
        <Overlaid label="A file was dropped" onClose={() => setFound(null)}>
          <Section>
            <Box as="h2" fontSize="15px" fontWeight={600} mb="4px">{found.file.name}</Box>
            <Sign tone={ways.length ? "fine" : "attention"}>This is {found.says}.{ways.length || !found.uses.length ? "" : ` ${found.uses.includes("draw frames") ? "Select the lasers that are to draw it" : "Open the type there first"}, and drop it again.`}</Sign>
            <Flex gap="8px" mt="12px" wrap="wrap">
              {ways.map((way, i) => (
                <Action key={way.says} look={i ? "plain" : "main"} width="auto" px="14px" onClick={() => { setFound(null); way.run(); }}>{way.says}</Action>
              ))}
              <Action look="quiet" onClick={() => setFound(null)}>Leave it</Action>
            </Flex>
          </Section>
        </Overlaid>
      )}
    </>
  );
}
