import { Box } from "@chakra-ui/react";
import { Action, Section, Sign } from "../kit/controls";
import { called, settings, thing, useShow } from "./document";
import { repair } from "./edits";
import { many } from "./format";
import { goTo, select, useSelection } from "./selection";
import type { Step } from "./types";

/** What is selected, as the head of every card. */
export function CardHead({ none }: { none: string }) {
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const first = selection[0] ? objects[selection[0]] : undefined;
  const kinds = new Set(selection.map((id) => objects[id]?.kind));
  const names = selection.slice(0, 4).map((id) => called(objects[id]));
  let title = none;
  let note = settings(objects).venue;
  if (first && selection.length === 1) {
    title = first.kind === "fixture" ? `Fixture ${called(first)}` : called(first);
    const fixture = thing(objects, first.id, "fixture");
    note = fixture ? `${types[fixture.body.type]?.name ?? "type lost"}, ${fixture.body.mode}` : first.kind;
  } else if (first) {
    title = many(selection.length, kinds.size === 1 ? first.kind : "thing");
    note = names.join(", ") + (selection.length > 4 ? " and more" : "");
  }
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600}>
        {title}
      </Box>
      <Box color="dim" fontSize="12px">
        {note}
      </Box>
    </Section>
  );
}

/** What a step still has to put right; a click selects what is concerned. */
export function Readiness({ step }: { step: Step }) {
  const findings = useShow((state) => state.findings).filter((one) => one.step === step);
  if (!findings.length) return null;
  return (
    <Section title="To put right">
      {findings.map((one) => (
        <Box key={one.text} mb={one.repair ? "6px" : undefined}>
          <Sign
            tone={one.wrong ? "wrong" : "attention"}
            onClick={() => {
              goTo(step);
              select(one.where);
            }}
          >
            {one.text}
          </Sign>
          {one.repair && (
            <Action height="22px" ml="21px" fontSize="11.5px" onClick={() => one.repair && repair(one.repair)}>
              {one.repair.label}
            </Action>
          )}
        </Box>
      ))}
    </Section>
  );
}
