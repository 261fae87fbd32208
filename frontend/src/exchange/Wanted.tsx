import { Box, chakra, Flex, VisuallyHidden } from "@chakra-ui/react";
import { Action, Section, Sign } from "../kit/controls";
import { settings, useShow } from "../show/document";
import { length } from "../show/format";
import { choose, layAs, toggled, useExchange } from "./state";

const ONE: Record<string, string> = { scenery: "piece of scenery", people: "person" };
const SEVERAL: Record<string, string> = { scenery: "pieces of scenery" };
/** So many of a group, in words. */
const counted = (count: number, group: string): string => `${count} ${count === 1 ? (ONE[group] ?? group.replace(/s$/, "")) : (SEVERAL[group] ?? group)}`;

/** What of the file is taken, group by group; what here goes that it does not have; how all of it lies. */
export function Wanted() {
  const { compared, choices, taken } = useExchange();
  const { system } = useShow((state) => settings(state.objects));
  if (!compared) return null;
  const lacking = compared.groups.filter((group) => group.kept + group.removed > 0 && group.name !== "layers");
  const lies = (one: { factor: number; over: boolean; shift: readonly number[] }) => choices.factor === one.factor && choices.over === one.over && choices.shift.join() === one.shift.join();
  return (
    <Box as="section" aria-label="What is taken" bg="ink2" borderRight="1px solid" borderColor="line" overflowY="auto" minHeight="0" inert={taken !== null} opacity={taken ? 0.55 : 1}>
      <VisuallyHidden asChild><h2>What is taken</h2></VisuallyHidden>
      {compared.suspicions.length > 0 && (
        <Section title="How it lies">
          {compared.suspicions.map((one) => (
            <Box key={one.what + one.button} mb="6px">
              <Sign tone={lies(one) ? "fine" : "wrong"}>{one.what}</Sign>
              <Action look={lies(one) ? "on" : "plain"} height="24px" ml="21px" aria-pressed={lies(one)} onClick={() => layAs(one)}>{one.button}</Action>
            </Box>
          ))}
        </Section>
      )}
      <Section title="Taken from the file">
        {compared.groups.map((group) => (
          <chakra.label key={group.name} display="flex" gap="8px" alignItems="center" fontSize="12.5px" py="2px" cursor="pointer" color={group.in_file ? "text" : "faint"}>
            <chakra.input
              type="checkbox" accentColor="{colors.brass}" checked={choices.kinds.includes(group.name)} disabled={!group.in_file}
              onChange={() => choose({ kinds: toggled(choices.kinds, group.name) })}
            />
            <Box flex="1">{group.name[0]?.toUpperCase()}{group.name.slice(1)}</Box>
            <Box fontFamily="mono" fontSize="11px" color="dim" whiteSpace="nowrap">
              {[group.added && `+${group.added}`, group.changed && `~${group.changed}`].filter(Boolean).join(" ")}
            </Box>
            <Box fontFamily="mono" fontSize="11px" width="38px" textAlign="right" color="faint" title="In the file">{group.in_file}</Box>
          </chakra.label>
        ))}
        <Box fontSize="11.5px" color="faint" mt="4px">+ new, ~ different; at the right how many the file has</Box>
      </Section>
      {lacking.length > 0 && (
        <Section title="Here, and not in the file">
          {lacking.map((group) => (
            <chakra.label key={group.name} display="flex" gap="8px" alignItems="center" fontSize="12.5px" py="2px" cursor="pointer">
              <chakra.input
                type="checkbox" accentColor="{colors.rose}" checked={choices.remove.includes(group.name)} disabled={!choices.kinds.includes(group.name)}
                onChange={() => choose({ remove: toggled(choices.remove, group.name) })}
              />
              <Box flex="1">Remove {counted(group.kept + group.removed, group.name)}</Box>
            </chakra.label>
          ))}
          <Box fontSize="11.5px" color="faint" mt="4px">They stay unless they are ticked.</Box>
        </Section>
      )}
      {compared.low && compared.high && (
        <Section title="How far it reaches">
          {(["across", "up and down stage", "high"] as const).map((word, i) => (
            <Flex key={word} fontSize="12px" justify="space-between" py="1px">
              <Box color="dim">{word}</Box>
              <Box fontFamily="mono" fontSize="11.5px">{length((compared.high?.[i] ?? 0) - (compared.low?.[i] ?? 0), system)}</Box>
            </Flex>
          ))}
        </Section>
      )}
    </Box>
  );
}
