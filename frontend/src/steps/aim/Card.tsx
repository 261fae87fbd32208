import { Box, Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { Action, Field, Level, Section, Sign } from "../../kit/controls";
import { meantNumber } from "../../kit/signs";
import { CardHead, Readiness } from "../../show/CardHead";
import { edit, gesture } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { angle, degreesOf, many } from "../../show/format";
import { usePanes } from "../../show/panes";
import { LandingSection } from "./Landing";

/** What has to be so for a level to be seen. */
const OPEN = { shutter: 1, strobe: 0 };
const COLOURS: [string, Record<string, number>][] = [
  ["White", { cyan: 0, magenta: 0, yellow: 0, red: 0, green: 0, blue: 0, white: 1 }],
  ["Warm", { cyan: 0, magenta: 0.3, yellow: 0.75, red: 1, green: 0.5, blue: 0.05, white: 0.2 }],
  ["Sea", { cyan: 0.9, magenta: 0.1, yellow: 0.25, red: 0, green: 0.8, blue: 0.7, white: 0 }],
  ["Night", { cyan: 0.9, magenta: 0.6, yellow: 0, red: 0, green: 0.2, blue: 1, white: 0 }],
];

export function AimCard() {
  const chosen = useChosenFixtures();
  const tool = usePanes((state) => state.tool);
  const ids = chosen.map((one) => one.id);
  const held = chosen.filter((one) => Object.keys(one.body.hands ?? {}).length > 0);
  const first = chosen[0]?.body.hands ?? {};
  useEffect(() => () => usePanes.setState({ tool: "select" }), []);
  const hold = (values: Record<string, number>) => edit("hold values", { ids, values }, { quiet: true });
  const turn = (feature: "pan" | "tilt") => (
    <Field
      label={feature === "pan" ? "Pan" : "Tilt"}
      value={first[feature] === undefined ? "" : angle((first[feature] * 180) / Math.PI)}
      hint="not held"
      signed={{ signs: "own", base: ((first[feature] ?? 0) * 180) / Math.PI, read: degreesOf, shown: angle }}
      onCommit={async (text, emptied) => {
        const degrees = meantNumber(text, ((first[feature] ?? 0) * 180) / Math.PI, "own", emptied, (part) => degreesOf(part) ?? NaN);
        return hold({ [feature]: (degrees * Math.PI) / 180 });
      }}
    />
  );
  return (
    <>
      <CardHead none="Aim" />
      <Section title="Aim at a place">
        {chosen.length === 0 && <Sign tone="attention">Select the fixtures to aim, in the picture or in the bench.</Sign>}
        <Action
          look={tool === "aim" ? "on" : "main"}
          width="100%"
          aria-pressed={tool === "aim"}
          disabled={!chosen.length}
          onClick={() => usePanes.setState({ tool: tool === "aim" ? "select" : "aim" })}
        >
          {tool === "aim" ? "Click a place in the picture" : `Aim ${many(chosen.length, "fixture")}`}
        </Action>
        {tool === "aim" && (
          <Box color="dim" fontSize="12px" mt="6px" textAlign="center">
            Click again to move on; Esc leaves them there
          </Box>
        )}
      </Section>
      {chosen.length > 0 && (
        <Section title="By hand">
          {turn("pan")}
          {turn("tilt")}
          <Level
            key={ids.join()}
            label="Intensity"
            value={first.dimmer ?? 0}
            onMove={(dimmer) => gesture("hold values", { ids, values: { dimmer, ...OPEN } })}
            onChange={(dimmer) => void hold({ dimmer, ...OPEN }).catch(() => undefined)}
          />
          <Flex gap="5px" wrap="wrap" mt="8px">
            {COLOURS.map(([name, values]) => (
              <Action key={name} onClick={() => void hold(values).catch(() => undefined)}>
                {name}
              </Action>
            ))}
          </Flex>
        </Section>
      )}
      {chosen.length > 0 && <LandingSection ids={ids} />}
      {held.length > 0 && (
        <Section>
          <Sign tone="attention">{many(held.length, "fixture")} held by hand: neither console nor look moves what is held.</Sign>
          <Action mt="4px" onClick={() => void edit("release", { ids: held.map((one) => one.id) }).catch(() => undefined)}>
            Let go of {many(held.length, "fixture")}
          </Action>
        </Section>
      )}
      <Readiness step="aim" />
    </>
  );
}
