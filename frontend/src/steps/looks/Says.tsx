import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Action, Choice, Section } from "../../kit/controls";
import { called, useShow } from "../../show/document";
import { fetchDiff, fetchSays, lookName, looksInOrder, SORTS, useLooks } from "../../show/looks";
import { select } from "../../show/selection";
import type { LookDiff, LookSays, Thing } from "../../show/types";

/** What a look says and what it leaves alone, by groups of fixtures; a click selects them. */
export function Says({ look }: { look: Thing<"look"> }) {
  const rev = useShow((state) => state.rev);
  const objects = useShow((state) => state.objects);
  const [says, setSays] = useState<LookSays | null>(null);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    let current = true;
    void fetchSays(look.id).then((found) => current && setSays(found), () => undefined);
    return () => {
      current = false;
    };
  }, [look.id, rev]);
  if (!says) return null;
  const told = says.groups.filter((group) => group.leaves.length < SORTS.length);
  const shown = open ? told : told.filter((group) => group.lit > 0);
  const alone = says.groups.length - told.length;
  return (
    <Section title="What it says">
      {shown.map((group) => (
        <chakra.button key={group.name} type="button" display="block" width="100%" textAlign="left" py="2px" fontSize="12px" cursor="pointer" _hover={{ bg: "ink3" }} title="Select them" onClick={() => select(group.fixtures)}>
          <Box as="span">{group.name}</Box>
          <Box as="span" color="dim"> {group.text}</Box>
          {group.leaves.length > 0 && <Box as="span" color="faint"> · leaves alone: {group.leaves.join(", ")}</Box>}
        </chakra.button>
      ))}
      {(told.length > shown.length || open) && (
        <Action look="quiet" height="22px" fontSize="11.5px" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Only what is lit" : `${told.length - shown.length} more ${told.length - shown.length === 1 ? "group is" : "groups are"} dark`}
        </Action>
      )}
      {alone > 0 && <Box fontSize="12px" color="faint">{alone} {alone === 1 ? "group is" : "groups are"} left alone.</Box>}
      {says.links.length > 0 && (
        <Box fontSize="12px" color="dim" mt="4px">
          Follows {says.links.map((link) => `${called(objects[link.id]) || link.name} (${link.sort}, ${link.fixtures})`).join(", ")}
        </Box>
      )}
    </Section>
  );
}

/** What differs between this look and another, or what is seen, in words; a click selects who differs. */
export function Differences({ look }: { look: Thing<"look"> }) {
  const objects = useShow((state) => state.objects);
  const rev = useShow((state) => state.rev);
  const against = useLooks((state) => state.against);
  const [diff, setDiff] = useState<{ of: string; found: LookDiff } | null>(null);
  const others = looksInOrder(objects).filter((one) => one.id !== look.id);
  const to = against === "seen" || others.some((one) => one.id === against) ? against : "";
  const of = `${look.id} ${to} ${rev}`;
  useEffect(() => {
    if (!to) return;
    let current = true;
    void fetchDiff(look.id, to === "seen" ? "" : to).then((found) => current && setDiff({ of, found }), () => undefined);
    return () => {
      current = false;
    };
  }, [look.id, to, of]);
  const found = to && diff?.of.startsWith(`${look.id} ${to} `) ? diff.found : null;
  return (
    <Section title="What differs">
      <Choice label="Compare with" value={to} options={[{ value: "", label: "nothing" }, { value: "seen", label: "what is seen now" }, ...others.map((one) => ({ value: one.id, label: lookName(one) }))]} onChange={(value) => useLooks.setState({ against: value })} />
      {found && (
        <Box role="region" aria-label="Differences in words">
          {found.groups.map((group) => (
            <chakra.button key={group.text} type="button" display="block" width="100%" textAlign="left" py="2px" fontSize="12px" cursor="pointer" _hover={{ bg: "ink3" }} title="Select and outline them" onClick={() => select(group.fixtures)}>
              {group.text}
            </chakra.button>
          ))}
          {!found.fixtures.length && <Box fontSize="12px" color="dim">They are the same.</Box>}
          {found.fixtures.length > 0 && (
            <Flex mt="4px">
              <Action look="quiet" height="22px" fontSize="11.5px" onClick={() => select(found.fixtures)}>Outline all {found.fixtures.length} on the stage</Action>
            </Flex>
          )}
        </Box>
      )}
    </Section>
  );
}
