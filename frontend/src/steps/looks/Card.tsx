import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Section, Segments, Sign } from "../../kit/controls";
import { Readiness } from "../../show/CardHead";
import { settings, thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { lookName, orderShown, stalePictures, useLooks } from "../../show/looks";
import { useRun } from "../../show/run";
import { select, useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { Blind } from "./Blind";
import { Chosen } from "./Chosen";
import { FromList } from "./FromList";
import { Keep } from "./Keep";
import { Settling } from "./Settling";
import { Times } from "./Times";
import { useTimes } from "./useTimes";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

export function LooksCard() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const { order: orderChosen, steps, look, blind, view } = useLooks();
  const show = settings(objects);
  const order = orderShown(objects, orderChosen, show.running);
  const edited = thing(objects, blind, "look");
  const chosen = thing(objects, selection[0], "look") ?? thing(objects, look, "look");
  const [of, setOf] = useState<"step" | "look">("step");
  const chosenSteps = (order?.body.steps ?? []).filter((step) => steps.includes(step.key));
  const onStep = order !== undefined && view === "run" && chosenSteps.length > 0;
  return (
    <>
      <Playing />
      {edited ? (
        <Blind look={edited} />
      ) : (
        <>
          {onStep && (
            <Box px="16px" pt="10px">
              <Segments name="What the card is of" value={of} options={[{ value: "step", label: "The step" }, { value: "look", label: "Its look" }]} onChange={setOf} />
            </Box>
          )}
          {onStep && of === "step" ? <StepCard order={order} keys={chosenSteps.map((step) => step.key)} /> : chosen && <Chosen key={chosen.id} look={chosen} order={order} />}
          <Keep open={!chosen && !onStep} />
          <Settling />
          <FromList />
        </>
      )}
      <Readiness step="looks" />
      <OldPictures />
    </>
  );
}

/** What has the say now, and over whom. */
function Playing() {
  const objects = useShow((state) => state.objects);
  const show = settings(objects);
  const run = useRun((state) => state.run);
  const playing = thing(objects, show.playing, "look");
  const order = thing(objects, show.running, "order");
  const step = order?.body.steps?.find((one) => one.key === run.step);
  const title = order ? order.body.name : playing ? `Look ${lookName(playing)}` : "No look is playing";
  const said = order
    ? `${step ? `Look ${lookName(thing(objects, step.look, "look"))}. ` : ""}${run.waiting ? "It waits for somebody to go on." : run.playing ? "It plays." : "It stands."}`
    : playing ? (show.look_first ? "Over the console, where both speak" : "Shown where no console drives") : "";
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600}>{title}</Box>
      {said && <Box color="dim" fontSize="12px">{said}</Box>}
      {(playing ?? order) && show.look_first && show.follow_console && (
        <Action mt="6px" height="24px" onClick={() => quietly(edit("set show", { look_first: false }))}>Give the console the say</Action>
      )}
    </Section>
  );
}

/** Pictures that are of how things were before, until the stage has drawn them anew. */
function OldPictures() {
  const stale = useShow((state) => stalePictures(state).join(" "));
  if (!stale) return null;
  const looks = stale.split(" ");
  return (
    <Section title="Pictures">
      <Sign tone="attention" onClick={() => select(looks)}>
        {many(looks.length, "picture")} of before: drawn anew while nobody does anything else here.
      </Sign>
    </Section>
  );
}

/** The chosen steps with what is found of their heads. */
function StepCard({ order, keys }: { order: Thing<"order">; keys: string[] }) {
  const times = useTimes(order.id);
  return <Times key={keys.join()} order={order} steps={(order.body.steps ?? []).filter((step) => keys.includes(step.key))} times={times} />;
}
