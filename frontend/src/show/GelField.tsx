import { chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { hexOf, XyPicker } from "../kit/XyPicker";
import { Action, Field } from "../kit/controls";
import { edit } from "./edits";
import type { Bodies } from "./types";

type Gel = NonNullable<Bodies["fixture"]["gel"]>;

/** A gel as it is typed: its name where that says it, else with its numbers (core/rig/gels.py reads it back). */
export const gelText = (gel: Gel | null | undefined): string => (gel ? (gel.own ? `${gel.name} ${gel.x} ${gel.y} ${gel.luminance}` : gel.name) : "");

/** A gel's colour as a small square, and what it is called. */
export function GelSign({ gel }: { gel: Gel | null | undefined }) {
  if (!gel) return null;
  return (
    <Flex align="center" gap="5px">
      <chakra.span flex="none" width="9px" height="9px" borderWidth="1px" borderColor="line" style={{ background: hexOf(gel) }} />
      {gel.name}
    </Flex>
  );
}

/** The gel of the fixtures selected: typed in plain words, with its numbers, or picked by x and y. */
export function GelField({ ids, gels }: { ids: string[]; gels: (Gel | null | undefined)[] }) {
  const [picking, setPicking] = useState(false);
  const texts = new Set(gels.map(gelText));
  const one = texts.size === 1 ? gels[0] : undefined;
  const put = (text: string, quiet: boolean) => edit("set field", { ids, field: "gel", text }, { quiet });
  return (
    <>
      <Field label="Gel" numeric={false} value={texts.size === 1 ? ([...texts][0] ?? "") : ""} hint={texts.size > 1 ? "several gels" : "pale amber"} onCommit={(text) => put(text, true)} />
      <Flex gap="8px" align="center" mb="6px" fontSize="12px" color="dim">
        <Action look="quiet" height="22px" aria-expanded={picking} onClick={() => setPicking(!picking)}>Pick its colour</Action>
        {one && <GelSign gel={one} />}
        {one && <span>{one.luminance} % through</span>}
      </Flex>
      {picking && (
        <XyPicker
          colour={one ?? { x: 0.3127, y: 0.329, luminance: 80 }}
          // What no filter can be is told as a message: the picker has no place for it.
          onPick={({ x, y, luminance }) => void put(`${one?.own ? one.name : "Own"} ${x} ${y} ${luminance}`, false).catch(() => undefined)}
        />
      )}
    </>
  );
}
