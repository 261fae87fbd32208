import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Action, Choice, Progress, Section, Sign } from "../../kit/controls";
import { keptCarriers, settings, things, useShow } from "../../show/document";
import { fetchLookPicture } from "../../show/link";
import { notify } from "../../show/messages";
import { compare, usePanes } from "../../show/panes";
import { togglePicture } from "../../show/picture";

const SIZES = { "1080p": [1920, 1080], "4K": [3840, 2160], "720p": [1280, 720], "540p": [960, 540] } as const;

export function ReviewCard() {
  const objects = useShow((state) => state.objects);
  const stage = usePanes((state) => state.stage);
  const names = usePanes((state) => state.viewNames);
  const panes = usePanes((state) => state.panes);
  const looks = things(objects, "look");
  const show = settings(objects);
  const [left, setLeft] = useState<string>(looks[0]?.id ?? "live");
  const [right, setRight] = useState<string>(looks[1]?.id ?? "live");
  const [size, setSize] = useState<keyof typeof SIZES>("1080p");
  const [making, setMaking] = useState<{ still: boolean; share: number } | null>(null);
  const stopped = useRef(false);
  const options = [{ value: "live", label: "as driven" }, ...looks.map((look) => ({ value: look.id, label: `${look.body.number}, ${look.body.name}` }))];

  const elsewhere = [...new Set(looks.filter((look) => look.id === left || look.id === right).flatMap((look) => keptCarriers(objects, look.body).filter((one) => !one.there).map((one) => one.name)))];
  const showBoth = async () => {
    try {
      await Promise.all([left, right].filter((one) => one !== "live").map(fetchLookPicture));
      compare(left, right);
    } catch (wrong) {
      notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
    }
  };
  const save = async (still: boolean) => {
    if (!stage) return;
    stopped.current = false;
    setMaking({ still, share: 0 });
    try {
      const [width, height] = SIZES[size];
      const progress = { onProgress: (share: number) => setMaking({ still, share }), stopped: () => stopped.current };
      const blob = await stage.snapshot("main", width, height, still ? progress : undefined);
      const pane = panes.find((one) => one.id === "main");
      const look = looks.find((one) => one.id === pane?.picture);
      const link = document.createElement("a");
      link.href = URL.createObjectURL(blob);
      link.download = [show.name, look?.body.name, names.main, still && "still"].filter(Boolean).join(", ").replace(/[^\w ,'-]/g, "") + ".png";
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      notify(`Saved ${link.download}, ${width} × ${height}.`);
    } catch (wrong) {
      notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
    } finally {
      setMaking(null);
    }
  };
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          {names.main || "Review"}
        </Box>
        <Box color="dim" fontSize="12px">
          Look from a seat in the bench; the picture goes there
        </Box>
      </Section>
      <Section title="Two looks beside each other">
        <Choice label="On the left" value={left} options={options} onChange={setLeft} />
        <Choice label="On the right" value={right} options={options} onChange={setRight} />
        {looks.length === 0 && <Sign tone="attention">There is no look yet: keep one in Looks.</Sign>}
        {elsewhere.length > 0 && <Box fontSize="12px" color="dim" mb="8px">{elsewhere.join(" and ")}: in each picture where its look has {elsewhere.length > 1 ? "them" : "it"}.</Box>}
        <Action look="main" disabled={!looks.length} onClick={() => void showBoth()}>
          Show both from here
        </Action>
      </Section>
      <Section title="The picture">
        <Action width="100%" onClick={togglePicture}>
          Quality, exposure, haze
        </Action>
      </Section>
      <Section title="Save the left pane">
        <Choice label="Size" value={size} options={Object.keys(SIZES) as (keyof typeof SIZES)[]} onChange={setSize} />
        <Flex gap="6px">
          <Action flex="1" disabled={making !== null} onClick={() => void save(false)}>
            {making && !making.still ? "Drawing the picture" : "Save as PNG"}
          </Action>
          <Action flex="1" look="main" disabled={making !== null} onClick={() => void save(true)}>
            Make a still
          </Action>
        </Flex>
        {making?.still && (
          <Flex align="center" gap="8px" mt="8px" fontSize="12px" color="dim">
            <Progress label="The still" share={making.share} />
            <Action look="quiet" onClick={() => (stopped.current = true)}>
              Stop
            </Action>
          </Flex>
        )}
        <Box color="faint" fontSize="11.5px" mt="6px">
          A still takes many samples: soft shadows, smooth edges and air.
        </Box>
      </Section>
    </>
  );
}
