import { Box, chakra, Flex } from "@chakra-ui/react";
import { Eye, EyeOff, Lock, LockOpen } from "lucide-react";
import { useState } from "react";
import { Action } from "../../kit/controls";
import { settings, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { select, useSelection } from "../../show/selection";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** The layers, in a drawer of the bench: shown, locked, the one that new things land on, how much is on each. */
export function Layers() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const [name, setName] = useState("");
  const active = settings(objects).active_layer;
  const layers = things(objects, "layer");
  const counts: Record<string, string[]> = {};
  for (const row of Object.values(objects)) if (row.layer) (counts[row.layer] ??= []).push(row.id);
  const movable = selection.filter((id) => objects[id] && objects[id].kind !== "layer");
  return (
    <Flex direction="column" width="356px" flex="none" borderLeft="1px solid" borderColor="line" minHeight="0" aria-label="Layers" role="region">
      <Box overflowY="auto" flex="1" minHeight="0" py="4px">
        {layers.map((layer) => {
          const { body } = layer;
          const on = counts[layer.id] ?? [];
          return (
            <Flex key={layer.id} data-layer={body.name} align="center" gap="2px" px="8px" height="26px" fontSize="12.5px" bg={active === layer.id ? "ink3" : "transparent"} _hover={{ bg: "ink2" }}>
              <chakra.input type="color" aria-label={`Colour of ${body.name}`} value={body.colour ?? ""} width="16px" height="16px" p="0" border="none" bg="transparent" onChange={(event) => quietly(edit("set layer", { id: layer.id, colour: event.target.value }))} />
              <chakra.button type="button" flex="1" textAlign="left" px="6px" cursor="pointer" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap" color={body.shown === false ? "faint" : "text"} title="Select all that is on it" onClick={() => select(on)}>
                {body.name}
              </chakra.button>
              <Box fontFamily="mono" fontSize="11px" color="faint" width="34px" textAlign="right">{on.length}</Box>
              <Action look="quiet" height="22px" aria-pressed={body.shown !== false} aria-label={`${body.shown === false ? "Show" : "Hide"} ${body.name}`} onClick={() => quietly(edit("set layer", { id: layer.id, shown: body.shown === false }))}>
                {body.shown === false ? <EyeOff size={13} /> : <Eye size={13} />}
              </Action>
              <Action look="quiet" height="22px" color={body.locked ? "ember" : undefined} aria-pressed={Boolean(body.locked)} aria-label={`${body.locked ? "Unlock" : "Lock"} ${body.name}`} onClick={() => quietly(edit("set layer", { id: layer.id, locked: !body.locked }))}>
                {body.locked ? <Lock size={13} /> : <LockOpen size={13} />}
              </Action>
              <Action look={active === layer.id ? "on" : "quiet"} height="20px" fontSize="11px" aria-pressed={active === layer.id} aria-label={`New things land on ${body.name}`} onClick={() => quietly(edit("activate layer", { id: active === layer.id ? null : layer.id }))}>
                new
              </Action>
              {movable.length > 0 && <Action look="quiet" height="20px" fontSize="11px" aria-label={`Put the selection on ${body.name}`} onClick={() => quietly(edit("to layer", { ids: movable, layer: layer.id }))}>put</Action>}
              <Action look="quiet" height="20px" fontSize="11px" aria-label={`Show ${body.name} alone`} onClick={() => quietly(edit("isolate layer", { id: layer.id }))}>alone</Action>
              <Action look="quiet" height="20px" px="3px" aria-label={`Remove the layer ${body.name}`} onClick={() => quietly(edit("remove layer", { id: layer.id }))}>×</Action>
            </Flex>
          );
        })}
        {!layers.length && <Box color="dim" fontSize="12px" px="14px" py="6px">No layer yet. What is on one can be hidden, locked and taken all at once.</Box>}
      </Box>
      <Flex as="form" gap="6px" p="6px 8px" borderTop="1px solid" borderColor="line" onSubmit={(event) => { event.preventDefault(); quietly(edit("add layer", { name }).then(() => setName(""))); }}>
        <chakra.input aria-label="Name of a new layer" placeholder="A new layer" value={name} onChange={(event) => setName(event.target.value)} flex="1" minWidth="0" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="24px" px="8px" fontSize="12px" />
        <Action type="submit" height="24px">Add</Action>
        {layers.some((one) => one.body.shown === false) && <Action look="quiet" height="24px" onClick={() => quietly(edit("isolate layer", { id: null }))}>Show all</Action>}
      </Flex>
    </Flex>
  );
}
