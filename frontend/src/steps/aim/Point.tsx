import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Field, Input, NumberField, Section, Segments, Sign } from "../../kit/controls";
import { called, settings, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many, metresOf, shortLength } from "../../show/format";
import { usePanes } from "../../show/panes";
import { beginAim, HEIGHTS, leaveAim, lined, nameTaken, type Pattern, setAbove, setPattern, take, usePointing } from "../../show/pointing";
import type { EditArgs, ReachOut } from "../../show/types";

const PATTERNS: { value: Pattern; label: string }[] = [
  { value: "point", label: "all at one place" },
  { value: "parallel", label: "parallel" },
  { value: "line", label: "spread along a line" },
  { value: "crossed", label: "crossed along a line" },
  { value: "ring", label: "on a ring round it" },
];

/** Point the selection: by the pointer over the picture, or at a focus point. */
export function PointSection({ ids }: { ids: string[] }) {
  const tool = usePanes((state) => state.tool);
  const { pattern, above, radius, from, taken, short } = usePointing();
  const objects = useShow((state) => state.objects);
  const points = things(objects, "focus point");
  const { system } = settings(objects);
  const aiming = tool === "aim";
  const hint = lined(pattern) ? (from ? "Click where the line ends" : "Click where the line begins") : "Click a place in the picture";
  return (
    <Section title="Point">
      {ids.length === 0 && <Sign tone="attention">Select the fixtures to aim, in the picture or in the bench.</Sign>}
      <Action look={aiming ? "on" : "main"} width="100%" aria-pressed={aiming} disabled={!ids.length} onClick={() => (aiming ? leaveAim() : beginAim())}>
        {aiming ? hint : ids.length ? `Aim ${many(ids.length, "fixture")}` : "Aim fixtures"}
      </Action>
      {ids.length > 0 && (
        <Box mt="8px">
          {ids.length > 1 && <Choice label="Pattern" value={pattern} options={PATTERNS} onChange={setPattern} />}
          {pattern === "ring" && <Field label="Ring radius" value={radius} onCommit={(text) => Promise.resolve(usePointing.setState({ radius: text }))} />}
          <NumberField label="Height" value={above} write={(metres) => shortLength(metres, system)} read={(text) => metresOf(text, system) ?? NaN} onNumber={(metres) => Promise.resolve(setAbove(metres))} />
          <Flex gap="5px" mb="6px" pl="96px">
            {HEIGHTS.map(([name, metres], i) => (
              <Action key={name} look={Math.abs(above - metres) < 1e-6 ? "on" : "plain"} height="22px" px="7px" fontSize="11.5px" aria-pressed={Math.abs(above - metres) < 1e-6} title={`Over what is under the pointer: key ${i + 1} while aiming`} onClick={() => setAbove(metres)}>
                {name}
              </Action>
            ))}
          </Flex>
          {points.length > 0 && (
            <Choice
              label="Or at"
              value=""
              options={[{ value: "", label: "a focus point" }, ...points.map((one) => ({ value: one.id, label: called(one) }))]}
              onChange={(focus) => {
                if (focus) void take({ focus, pattern: lined(pattern) ? "point" : pattern, radius });
              }}
            />
          )}
        </Box>
      )}
      <Kept ids={ids} />
      {taken?.wish.point && !taken.wish.to && aiming && <NameIt key={taken.wish.point.join()} />}
      {short.length > 0 && <Short short={short} />}
    </Section>
  );
}

/** Whether heads that are aimed keep looking there while a driver carries them, or their point. Only where anything moves. */
function Kept({ ids }: { ids: string[] }) {
  const objects = useShow((state) => state.objects);
  const aims = ids.flatMap((id) => thing(objects, id, "fixture")?.body.aim ?? []);
  if (aims.length < ids.length || !ids.length || !things(objects, "fixture").some((one) => one.body.drives)) return null;
  const kept = aims.every((one) => one.kept);
  return (
    <Segments<"kept" | "free">
      name="While they are carried" value={kept ? "kept" : "free"} onChange={(how) => void edit("keep aim", { ids, kept: how === "kept" }, { quiet: true }).catch(() => undefined)}
      options={[{ value: "free", label: "turn with the carrier", says: "As real heads do that nobody corrects" }, { value: "kept", label: "stay on their place", says: "Turned to it anew with every frame, whoever drives pan and tilt" }]}
    />
  );
}

/** The place that was just taken becomes a focus point. */
function NameIt() {
  const [name, setName] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  return (
    <Box
      as="form"
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        nameTaken(name).catch((why: unknown) => setWrong(why instanceof Error ? why.message : String(why)));
      }}
    >
      <Input label="Name it" value={name} onChange={setName} numeric={false} hint="such as Lectern" wrong={wrong} />
      {name.trim() && (
        <Action type="submit" height="24px" ml="96px">
          Make it the focus point {name.trim()}
        </Action>
      )}
    </Box>
  );
}

/** Who cannot reach, by how much, and what would let them. */
function Short({ short }: { short: ReachOut[] }) {
  const objects = useShow((state) => state.objects);
  return (
    <Box mt="8px" role="group" aria-label="Who cannot reach">
      {short.map((one) => (
        <Box key={one.id} mb="6px">
          <Sign tone="wrong">
            Fixture {called(objects[one.id])} cannot reach: {one.missing_deg.toFixed(1)}° are missing.
          </Sign>
          {one.repairs.map((repair) => (
            <Action
              key={repair.label} height="auto" minHeight="22px" ml="21px" mb="3px" py="2px" fontSize="11.5px" textAlign="left"
              onClick={() =>
                void edit(repair.kind as keyof EditArgs, repair.args as EditArgs[keyof EditArgs]).then(
                  () => usePointing.setState({ short: usePointing.getState().short.filter((other) => other.id !== one.id) }),
                  () => undefined,
                )
              }
            >
              {repair.label}
            </Action>
          ))}
        </Box>
      ))}
    </Box>
  );
}
