import { Box, chakra, Flex } from "@chakra-ui/react";
import { X } from "lucide-react";
import { Action, Keys, Level, NumberField, Progress, Section, Segments, Sign } from "../kit/controls";
import { plainNumber } from "../kit/signs";
import { useDragged } from "../kit/dragged";
import { type Settings, settings, useShow } from "../show/document";
import { edit, gesture } from "../show/edits";
import { many } from "../show/format";
import { pinShadows, runSelfTest, setLabels, setWish, togglePicture, usePicture } from "../show/picture";
import { useSelection } from "../show/selection";
import { advice, type StepName } from "../stage/light/quality";

const STEPS: { value: StepName | "auto"; label: string }[] = [
  { value: "auto", label: "Auto" }, { value: "Build", label: "Build" }, { value: "Air", label: "Air" }, { value: "Pattern", label: "Pattern" }, { value: "Depth", label: "Depth" },
];
const FOR: Record<StepName | "auto", string> = {
  auto: "The best step that keeps the rate; at rest, everything.",
  Build: "Bodies and pools: to place and aim by.",
  Air: "Shafts in the haze as well.",
  Pattern: "Gobos and blades in the air as well.",
  Depth: "Shadows as well: set, truss and people cut the light.",
};

type Numbers = { [K in keyof Settings]: Settings[K] extends number ? K : never }[keyof Settings];

/** Change a number of the show; what cannot be is refused where it was typed. */
const put = (field: Numbers) => (value: number) => edit("set show", { [field]: value }, { quiet: true });
const times = (value: number): string => `× ${value}`;

/** `1/50` or `0.02`, in seconds. */
export function readTime(text: string): number {
  const [over, under] = text.replace(/s/g, "").split("/").map((part) => Number(part.replace(",", ".")));
  return under === undefined ? (over ?? NaN) : (over ?? NaN) / under;
}

export function writeTime(seconds: number): string {
  return seconds < 0.4 ? `1/${Math.round(1 / seconds)} s` : `${seconds} s`;
}

function change(values: Parameters<typeof edit<"set show">>[1]): void {
  void edit("set show", values).catch(() => undefined);
}

/** How the picture is taken and drawn: open from the status line, in place of the card, in every step. */
export function PicturePanel() {
  const { wish, labels } = usePicture();
  const show = settings(useShow((state) => state.objects));
  return (
    <>
      <Section>
        <Flex align="center">
          <Box flex="1">
            <Box as="h2" fontSize="15px" fontWeight={600}>
              The picture
            </Box>
            <Box color="dim" fontSize="12px">
              How it is drawn here, and how it is taken
            </Box>
          </Box>
          <Action look="quiet" aria-label="Back to the card" title="Back to the card (E)" onClick={togglePicture}>
            <X size={15} />
          </Action>
        </Flex>
      </Section>
      <Section title="Quality, on this screen">
        <Segments name="Quality" value={wish.step} options={STEPS.map((one) => ({ ...one, says: FOR[one.value] }))} onChange={(step) => setWish({ step })} />
        <Box color="dim" fontSize="12px" mb="8px">
          {FOR[wish.step]}
        </Box>
        <NumberField label="Keep" value={wish.fps} write={(fps) => `${fps} fps`} onNumber={(fps) => within(fps, 1, 120, () => setWish({ fps: Math.round(fps) }))} />
        <NumberField label="At most" value={Math.round(wish.cap * 100)} write={(cap) => `${cap} % busy`} read={(text) => plainNumber(text.replace(/[a-z]/g, ""))} onNumber={(cap) => within(cap, 10, 100, () => setWish({ cap: cap / 100 }))} />
        <SelfTest />
      </Section>
      <ShadowSection />
      <ExposureSection show={show} />
      <Section title="In the air">
        <NumberField label="Haze, 1/m" value={show.haze_per_m} onNumber={put("haze_per_m")} />
        <Level label="Unevenness" value={show.haze_uneven} onMove={(haze_uneven) => gesture("set show", { haze_uneven })} onChange={(haze_uneven) => change({ haze_uneven })} />
        <NumberField label="Bloom" value={show.bloom} onNumber={put("bloom")} />
      </Section>
      <Section title="Apart from the show">
        <NumberField label="Work light, lx" value={show.work_light_lx} onNumber={put("work_light_lx")} />
        <NumberField label="House light, lx" value={show.house_light_lx} onNumber={put("house_light_lx")} />
        <Colour label="Behind, low" value={show.background_low} onMove={(background_low) => gesture("set show", { background_low })} onChange={(background_low) => change({ background_low })} />
        <Colour label="Behind, high" value={show.background_high} onMove={(background_high) => gesture("set show", { background_high })} onChange={(background_high) => change({ background_high })} />
      </Section>
      <Section title="Numbers on the picture">
        <Tick label="On bodies" checked={labels.bodies} onChange={(bodies) => setLabels({ bodies })} />
        <Tick label="Where beams land" checked={labels.landings} onChange={(landings) => setLabels({ landings })} />
        <Box color="faint" fontSize="11.5px" mt="4px">
          <Keys>L</Keys> goes from one to the next
        </Box>
      </Section>
      <Section title="Strength, against the true one">
        <NumberField label="Shafts" value={show.shaft_gain} write={times} onNumber={put("shaft_gain")} />
        <NumberField label="Pools" value={show.pool_gain} write={times} onNumber={put("pool_gain")} />
        <NumberField label="Lenses" value={show.body_gain} write={times} onNumber={put("body_gain")} />
        {offScale(show) && (
          <Sign tone="attention" onClick={() => change({ shaft_gain: 1, pool_gain: 1, body_gain: 1 })}>
            Off scale: the picture is not true. Set all three back to 1.
          </Sign>
        )}
      </Section>
    </>
  );
}

/** Whether shafts, pools or lenses are set away from their true strength. */
export function offScale(show: Settings): boolean {
  return show.shaft_gain !== 1 || show.pool_gain !== 1 || show.body_gain !== 1;
}

function within(value: number, least: number, most: number, take: () => void): Promise<void> {
  if (!(value >= least && value <= most)) return Promise.reject(new Error(`Type a number from ${least} to ${most}.`));
  take();
  return Promise.resolve();
}

function ExposureSection({ show }: { show: Settings }) {
  const camera = useShow((state) => state.camera);
  return (
    <Section title="Exposure">
      <Segments
        name="What exposes"
        value={show.exposure_kind}
        options={[{ value: "eye", label: "Eye" }, { value: "camera", label: "Camera" }]}
        onChange={(exposure_kind) => change({ exposure_kind })}
      />
      {show.exposure_kind === "eye" ? (
        <>
          <NumberField label="Exposure, EV" value={show.exposure_ev} write={(ev) => ev.toFixed(1)} signs="own" onNumber={put("exposure_ev")} disabled={show.eye_adapts} />
          <Tick label="Locked: looks leave it as it is" checked={show.exposure_locked} onChange={(exposure_locked) => change({ exposure_locked })} />
          <Tick label="The eye adapts" checked={show.eye_adapts} onChange={(eye_adapts) => change({ eye_adapts })} />
        </>
      ) : (
        <>
          <NumberField label="ISO" value={show.iso} onNumber={put("iso")} />
          <NumberField label="Time" value={show.shutter_s} write={writeTime} read={readTime} onNumber={put("shutter_s")} />
          <NumberField label="Aperture, f/" value={show.aperture} read={(text) => plainNumber(text.replace(/^f\/?/i, ""))} onNumber={put("aperture")} />
          <Box color="dim" fontSize="12px" mb="6px">
            comes to EV {camera?.ev100.toFixed(1) ?? ""}
          </Box>
        </>
      )}
      <NumberField label="White, K" value={show.white_k} onNumber={put("white_k")} />
      <Flex gap="6px" mt="8px" aria-label="Start from">
        {(["indoors", "dusk", "day"] as const).map((start) => (
          <Action key={start} flex="1" onClick={() => change({ exposure_start: start })}>
            {start === "indoors" ? "Indoors" : start === "dusk" ? "Dusk" : "Day"}
          </Action>
        ))}
      </Flex>
    </Section>
  );
}

function ShadowSection() {
  const { pinned } = usePicture();
  const objects = useShow((state) => state.objects);
  const chosen = useSelection((state) => state.selection).filter((id) => objects[id]?.kind === "fixture");
  return (
    <Section title="Shadows, at Depth">
      <Box color="dim" fontSize="12px" mb="6px">
        {pinned.length ? `Of ${many(pinned.length, "fixture")} always, then` : "Of"} the brightest beams: 32 while something moves, 144 at rest.
      </Box>
      <Flex gap="6px">
        <Action flex="1" disabled={!chosen.length} onClick={() => pinShadows([...new Set([...pinned, ...chosen])])}>
          Always of {many(chosen.length, "selected fixture")}
        </Action>
        {pinned.length > 0 && <Action onClick={() => pinShadows([])}>Of none</Action>}
      </Flex>
    </Section>
  );
}

function SelfTest() {
  const { testing, forecasts, wish } = usePicture();
  return (
    <>
      <Action width="100%" mt="4px" disabled={testing !== null} onClick={() => void runSelfTest()}>
        {testing ? `Testing ${testing.step}, ${Math.round(testing.share * 100)} %` : "Test what this machine carries"}
      </Action>
      {testing && <Progress share={testing.share} label="Self-test" />}
      {forecasts.length > 0 && (
        <Box mt="8px" data-part="forecasts">
          {forecasts.map((one) => (
            <Flex key={one.step} fontSize="12px" py="1px">
              <Box flex="1" color="dim">
                {one.step}
              </Box>
              <Box fontFamily="mono">
                {one.ms.toFixed(0)} ms · {one.fps >= 10 ? one.fps.toFixed(0) : one.fps.toFixed(1)} fps
              </Box>
            </Flex>
          ))}
          <Sign tone={forecasts.some((one) => one.fps >= wish.fps) ? "fine" : "attention"}>{advice(forecasts, wish)}</Sign>
        </Box>
      )}
    </>
  );
}

function Tick({ label, checked, onChange }: { label: string; checked: boolean; onChange: (to: boolean) => void }) {
  return (
    <chakra.label display="flex" alignItems="center" gap="8px" fontSize="12px" py="3px" cursor="pointer">
      <chakra.input type="checkbox" accentColor="{colors.brass}" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      {label}
    </chakra.label>
  );
}

function Colour({ label, value, onMove, onChange }: { label: string; value: string; onMove: (to: string) => void; onChange: (to: string) => void }) {
  const dragged = useDragged(value, onMove, onChange);
  return (
    <chakra.label display="flex" alignItems="center" gap="8px" fontSize="12px" color="dim" py="3px">
      <Box width="88px">{label}</Box>
      <chakra.input type="color" aria-label={label} value={dragged.value} width="42px" height="20px" border="1px solid" borderColor="line" bg="ink1" {...dragged.on((text) => text)} />
      <Box fontFamily="mono" fontSize="11px">
        {dragged.value}
      </Box>
    </chakra.label>
  );
}
