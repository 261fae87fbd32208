import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Action, Choice, Progress, Section } from "../../kit/controls";
import { settings, things, useShow } from "../../show/document";
import { notify } from "../../show/messages";
import { usePanes } from "../../show/panes";
import { togglePicture } from "../../show/picture";

const SIZES = { "1080p": [1920, 1080], "4K": [3840, 2160], "720p": [1280, 720], "540p": [960, 540] } as const;

/** The picture of the left pane as a file: at once, or as a still. */
export function Saving() {
  const objects = useShow((state) => state.objects);
  const stage = usePanes((state) => state.stage);
  const names = usePanes((state) => state.viewNames);
  const panes = usePanes((state) => state.panes);
  const show = settings(objects);
  const [size, setSize] = useState<keyof typeof SIZES>("1080p");
  const [making, setMaking] = useState<{ still: boolean; share: number } | null>(null);
  const stopped = useRef(false);
  const save = async (still: boolean) => {
    if (!stage) return;
    stopped.current = false;
    setMaking({ still, share: 0 });
    try {
      const [width, height] = SIZES[size];
      const progress = { onProgress: (share: number) => setMaking({ still, share }), stopped: () => stopped.current };
      const blob = await stage.snapshot("main", width, height, still ? progress : undefined);
      const pane = panes.find((one) => one.id === "main");
      const look = things(objects, "look").find((one) => one.id === pane?.picture);
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
      <Action look="quiet" height="24px" mt="4px" onClick={togglePicture}>
        Quality, exposure, haze
      </Action>
    </Section>
  );
}
