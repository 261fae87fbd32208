import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Field, Section, Segments } from "../../kit/controls";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { angle, degreesOf } from "../../show/format";
import type { Thing } from "../../show/types";

type Fan = "across" | "middle";

/** Turn heads and yokes by typed angles, fans, pairs and the other way round. */
export function ByHand({ chosen, cells }: { chosen: Thing<"fixture">[]; cells: number[] }) {
  const [fan, setFan] = useState<Fan>("across");
  const bodies = useShow((state) => state.bodies);
  const ids = chosen.map((one) => one.id);
  const first = chosen[0];
  const body = bodies.find((one) => one.type === first?.body.type && one.mode === first.body.mode);
  const set = body?.by_hand ? first?.body.fixed : first?.body.hands;
  const turn = (feature: "pan" | "tilt") => {
    const now = first?.body.cells?.[String(cells[0])]?.[feature] ?? set?.[feature];
    const [low, high] = (feature === "pan" ? body?.pan_deg : body?.tilt_deg) ?? [0, 0];
    return (
      <Field
        label={feature === "pan" ? "Pan" : "Tilt"}
        value={now === undefined ? "" : angle((now * 180) / Math.PI)}
        hint={`${low.toFixed(0)}° to ${high.toFixed(0)}°`}
        signed={{ signs: "own", base: ((now ?? 0) * 180) / Math.PI, read: degreesOf, shown: angle }}
        onNotches={(notches) => edit("turn heads", { ids, ...(cells.length ? { cells } : {}), feature, text: `+=${notches}`, fan }, { quiet: true })}
        onCommit={(text) => edit("turn heads", { ids, ...(cells.length ? { cells } : {}), feature, text: text.replaceAll("°", ""), fan }, { quiet: true })}
      />
    );
  };
  const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);
  return (
    <Section title={body?.by_hand ? "Yoke, by hand" : "Heads, by hand"}>
      {turn("pan")}
      {turn("tilt")}
      {ids.length + cells.length > 1 && (
        <Segments
          name="How a fan such as -20 to 20 spreads" value={fan} onChange={setFan}
          options={[{ value: "across", label: "fan across", says: "-20 to 20: from the first to the last, as they hang" }, { value: "middle", label: "from the middle", says: "0 to 25: 0 in the middle, 25 at both ends" }]}
        />
      )}
      <Flex gap="5px" wrap="wrap">
        <Action height="24px" title="Look the same way with tilt over to the other side" onClick={() => quietly(edit("flip", { ids }))}>
          Flip
        </Action>
        <Action height="24px" title="Stage right looks as its partners on stage left do, across the centre line" onClick={() => quietly(edit("mirror aims", { ids, source: "SL" }))}>
          Mirror SL to SR
        </Action>
        <Action height="24px" title="Stage left looks as its partners on stage right do, across the centre line" onClick={() => quietly(edit("mirror aims", { ids, source: "SR" }))}>
          Mirror SR to SL
        </Action>
      </Flex>
    </Section>
  );
}
