import { Box, Flex } from "@chakra-ui/react";
import { Action } from "../../kit/controls";
import { called, things, useShow } from "../../show/document";
import { useFixtures } from "../../show/fixtures";
import { select, useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { pressToDrag } from "./dragging";

/** Fixtures that have no address yet, to be dragged on a slot. */
export function Unpatched() {
  const objects = useShow((state) => state.objects);
  return <Shelf state="not patched" onto="a slot" loose={things(objects, "fixture").filter((one) => one.body.address == null)} />;
}

/** Lamps that are dimmed from outside and plugged to nothing, to be dragged on a dimmer. */
export function Unplugged() {
  const types = useShow((state) => state.types);
  const dimmed = ({ body }: Thing<"fixture">): boolean => {
    const driven = types[body.type]?.modes.find((one) => one.name === body.mode)?.channels.filter((one) => one.slots.length) ?? [];
    return driven.length === 1 && driven[0]?.attribute === "Dimmer" && driven[0].slots.length === 1;
  };
  return <Shelf state="not on a dimmer" onto="a dimmer" loose={useFixtures().filter((one) => one.body.dimmer == null && dimmed(one))} />;
}

function Shelf({ state, onto, loose }: { state: string; onto: string; loose: Thing<"fixture">[] }) {
  const objects = useShow((show) => show.objects);
  const selection = new Set(useSelection((now) => now.selection));
  if (!loose.length) return null;
  const title = state.charAt(0).toUpperCase() + state.slice(1);
  return (
    <Flex align="center" gap="4px" px="14px" py="5px" borderBottom="1px solid" borderColor="line" wrap="wrap" maxHeight="62px" overflow="auto" flex="none" role="group" aria-label={title}>
      <Box color="ember" fontSize="12px" mr="6px">{title}, {loose.length}:</Box>
      {loose.map((one) => (
        <Action
          key={one.id} height="22px" px="7px" fontFamily="mono" fontSize="11px" look={selection.has(one.id) ? "on" : "plain"} cursor="grab" aria-pressed={selection.has(one.id)} aria-label={`Fixture ${called(objects[one.id])}, ${state}`} title={`Drag it on ${onto}; with Shift or Ctrl several`}
          onPointerDown={(event) => pressToDrag(event, [one.id])}
          onClick={(event) => select(event.shiftKey || event.ctrlKey ? (selection.has(one.id) ? [...selection].filter((id) => id !== one.id) : [...selection, one.id]) : [one.id])}
        >
          {called(objects[one.id])}
        </Action>
      ))}
      <Action look="quiet" height="22px" onClick={() => select(loose.map((one) => one.id))}>
        Select all of them
      </Action>
    </Flex>
  );
}
