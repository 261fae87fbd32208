import { useState } from "react";
import { Action, Choice, Section, Sign } from "../../kit/controls";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { many } from "../../show/format";
import { usePreview } from "../../show/usePreview";

/** Another type for what is selected: what stays and what goes is said before it is done. */
export function Swap() {
  const chosen = useChosenFixtures();
  const types = useShow((state) => state.types);
  const others = Object.keys(types).filter((id) => !types[id]?.driver && chosen.some((one) => one.body.type !== id));
  const [open, setOpen] = useState(false);
  const [picked, setPicked] = useState("");
  const [mode, setMode] = useState("");
  const type = others.includes(picked) ? picked : (others[0] ?? "");
  const ids = chosen.map((one) => one.id);
  const { result, wrong } = usePreview("swap type", open && ids.length && type ? { ids, type, mode } : null);
  const said = result?.report;
  if (!ids.length || !others.length) return null;
  const modes = types[type]?.modes ?? [];
  if (!open) {
    return (
      <Section title="Swap the type">
        <Action look="quiet" height="24px" onClick={() => setOpen(true)}>Another type for {many(ids.length, "fixture")}</Action>
      </Section>
    );
  }
  return (
    <Section title="Swap the type">
      <Choice label="To" value={type} options={others.map((id) => ({ value: id, label: `${types[id]?.name}, ${types[id]?.maker}` }))} onChange={(id) => { setPicked(id); setMode(""); }} />
      <Choice label="Mode" value={mode} options={[{ value: "", label: "the most alike" }, ...modes.map((one) => ({ value: one.name, label: `${one.name}, ${one.footprint} slots` }))]} onChange={setMode} />
      {said?.map((line) => <Sign key={line} tone="attention">{line}</Sign>)}
      {said?.length === 0 && <Sign tone="fine">Places, numbers, addresses and looks stay as they are.</Sign>}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      <Action disabled={Boolean(wrong)} onClick={() => void edit("swap type", { ids, type, mode }).catch(() => undefined)}>
        Swap {many(ids.length, "fixture")} to {types[type]?.name}
      </Action>
    </Section>
  );
}
