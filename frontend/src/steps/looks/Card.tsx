import { Box, Flex } from "@chakra-ui/react";
import { Action, Input, Section, Sign } from "../../kit/controls";
import { BodyFields } from "../../show/BodyFields";
import { Readiness } from "../../show/CardHead";
import { keptCarriers, settings, thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { angle, coordinate } from "../../show/format";
import { useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { useForm } from "../../show/useForm";

export function LooksCard() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const show = settings(objects);
  const playing = thing(objects, show.playing, "look");
  const chosen = thing(objects, selection[0], "look");
  const form = useForm({ name: "", note: "" });
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          {playing ? `Look ${playing.body.number}, ${playing.body.name}` : "No look is playing"}
        </Box>
        <Box color="dim" fontSize="12px">
          {show.follow_console ? "Shown where no console drives" : "Shown: the console is not followed"}
        </Box>
      </Section>
      <Section title="Keep what is seen">
        <Box
          as="form"
          onSubmit={(event) => {
            event.preventDefault();
            void form.attempt(() => edit("keep look", form.texts, { select: true, quiet: true })).then((kept) => kept && form.reset({ name: "", note: "" }));
          }}
        >
          <Input label="Name" numeric={false} hint="Look" value={form.texts.name} onChange={(text) => form.put("name", text)} wrong={form.wrongAt("name")} />
          <Input label="Note" numeric={false} value={form.texts.note} onChange={(text) => form.put("note", text)} />
          {form.wrong && <Sign tone="wrong">{form.wrong}</Sign>}
          <Action look="main" type="submit">
            Keep this picture as a look
          </Action>
        </Box>
      </Section>
      {chosen && (
        <Section title={`Look ${chosen.body.number}`}>
          <BodyFields ids={[chosen.id]} />
          <Carriers look={chosen.body} />
          <Action width="100%" mb="6px" look={show.playing === chosen.id && !show.follow_console ? "on" : "plain"} onClick={() => void edit("play look", { id: chosen.id }).catch(() => undefined)}>
            Recall {chosen.body.name}
          </Action>
          <Action width="100%" mb="6px" onClick={() => void edit("update look", { id: chosen.id }).catch(() => undefined)}>
            Keep this picture in {chosen.body.name}
          </Action>
          <Action look="quiet" onClick={() => void edit("remove", { ids: [chosen.id] }).catch(() => undefined)}>
            Remove {chosen.body.name}
          </Action>
        </Section>
      )}
      {!show.follow_console && (
        <Section>
          <Sign tone="attention">The console is not followed, so that the look can be seen.</Sign>
          <Action mt="4px" onClick={() => void edit("set show", { follow_console: true }).catch(() => undefined)}>
            Follow the console
          </Action>
        </Section>
      )}
      <Readiness step="looks" />
    </>
  );
}

/** Where a look has the carriers; recalling it brings them there. */
function Carriers({ look }: { look: Thing<"look">["body"] }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const kept = keptCarriers(objects, look);
  if (!kept.length) return null;
  return (
    <Box mb="8px" fontSize="12px" aria-label="Carriers of the look" role="region">
      {kept.map(({ id, name, place: [, , z, turn], there }) => (
        <Flex key={id} justify="space-between" color={there ? "dim" : "text"}>
          <Box>{name}</Box>
          <Box fontFamily="mono">{coordinate(z, "z", system)}{turn ? `, ${angle(turn)}` : ""}{there ? "" : " ←"}</Box>
        </Flex>
      ))}
      <Box color="faint" fontSize="11px">Recalling the look brings carriers there (←: they stand elsewhere now).</Box>
    </Box>
  );
}
