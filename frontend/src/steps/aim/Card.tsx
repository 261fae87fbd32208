import { lazy, Suspense, useEffect, useState } from "react";
import { Action, Level, Section, Sign } from "../../kit/controls";
import { CardHead, Readiness } from "../../show/CardHead";
import { thing, useShow } from "../../show/document";
import { edit, gesture } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { leaveShaping } from "../../show/cutting";
import { useLasers } from "../../show/lasers";
import { leavePath } from "../../show/paths";
import { leaveAim, otherHeads } from "../../show/pointing";
import { useSelection } from "../../show/selection";
import type { Thing } from "../../show/types";
import { ByHand } from "./ByHand";
import { CellsSection } from "./Cells";
import { ColourSection } from "./Colour";
import { FocusCard, WalkCard } from "./FocusCard";
import { GateSection } from "./Gate";
import { LandingSection } from "./Landing";
import { PointSection } from "./Point";
import { ShapeSection } from "./Shape";

/** Loaded with the first laser that is selected. */
const Lasers = lazy(() => import("./Lasers"));

/** What has to be so for a level to be seen. */
const OPEN = { shutter: 1, strobe: 0 };
export function AimCard() {
  const chosen = useChosenFixtures();
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const point = thing(objects, selection[0], "focus point");
  const figure = selection.length === 1 ? thing(objects, selection[0], "figure") : undefined;
  const ids = chosen.map((one) => one.id);
  const held = chosen.filter((one) => Object.keys(one.body.hands ?? {}).length + Object.keys(one.body.cells ?? {}).length > 0);
  const first = chosen[0]?.body.hands ?? {};
  useEffect(
    () => () => {
      leaveAim();
      leavePath();
      leaveShaping();
    },
    [],
  );
  const bodies = useShow((state) => state.bodies);
  const bodyOf = (one: Thing<"fixture">) => bodies.find((body) => body.type === one.body.type && body.mode === one.body.mode);
  const draws = useLasers((state) => state.told.heads);
  const lasers = chosen.filter((one) => draws.some(({ key }) => key.split("/")[0] === one.id));
  const celled = chosen.filter((one) => (bodyOf(one)?.cells.length ?? 1) > 1);
  const count = Math.max(0, ...celled.map((one) => bodyOf(one)?.cells.length ?? 1));
  // Cells are picked of a selection: another selection begins with all of them.
  const [picked, setPicked] = useState<{ of: string; cells: number[] }>({ of: "", cells: [] });
  const whom = ids.join();
  const cells = picked.of === whom ? picked.cells : [];
  useEffect(() => otherHeads(), [whom]);
  const some = cells.length ? { cells } : {};
  const hold = (values: Record<string, number>) => edit("hold values", { ids, ...some, values }, { quiet: true });
  return (
    <>
      <CardHead none="Aim" />
      {point && !ids.length ? <FocusCard key={point.id} point={point} /> : figure ? <WalkCard key={figure.id} figure={figure} /> : <PointSection ids={ids} />}
      {held.length > 0 && (
        <Section>
          <Sign tone="attention">{many(held.length, "fixture")} held by hand: neither console nor look moves what is held.</Sign>
          <Action mt="4px" title="Key X" onClick={() => void edit("release", { ids: held.map((one) => one.id) }).catch(() => undefined)}>
            Let go of {many(held.length, "fixture")}
          </Action>
        </Section>
      )}
      {lasers.length > 0 && <Suspense fallback={null}><Lasers key={`lasers ${lasers.map((one) => one.id).join()}`} chosen={lasers} /></Suspense>}
      {celled.length > 0 && <CellsSection key={`cells ${whom}`} count={count} few={celled.length < chosen.length ? ` (${celled.length} of ${chosen.length})` : ""} cells={cells} onCells={(now) => setPicked({ of: whom, cells: now })} />}
      {chosen.length > 0 && <ByHand key={ids.join()} chosen={chosen} cells={chosen.some((one) => bodyOf(one)?.apart) ? cells : []} />}
      {chosen.length > 0 && (
        <Section title="Light">
          <Level
            key={ids.join()}
            label="Intensity"
            value={(cells.length ? chosen[0]?.body.cells?.[String(cells[0])]?.dimmer : undefined) ?? first.dimmer ?? 0}
            unset={first.dimmer === undefined && !cells.some((cell) => chosen[0]?.body.cells?.[String(cell)]?.dimmer !== undefined)}
            onMove={(dimmer) => gesture("hold values", { ids, ...some, values: { dimmer, ...OPEN } })}
            onChange={(dimmer) => void hold({ dimmer, ...OPEN }).catch(() => undefined)}
          />
        </Section>
      )}
      {chosen.length > 0 && <ColourSection key={`colour ${ids.join()}`} chosen={chosen} cells={cells} />}
      {chosen.length > 0 && <ShapeSection key={`shape ${ids.join()}`} chosen={chosen} />}
      {chosen.length > 0 && <GateSection key={`gate ${ids.join()}`} chosen={chosen} />}
      {chosen.length > 0 && <LandingSection ids={ids} />}
      <Readiness step="aim" />
    </>
  );
}
