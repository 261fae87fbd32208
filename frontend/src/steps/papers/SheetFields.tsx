import { chakra, Flex } from "@chakra-ui/react";
import { Action, Choice, Field, Section, Segments } from "../../kit/controls";
import { edit } from "../../show/edits";
import { PAPERS, usePapers } from "../../show/papers";
import type { EditArgs, Thing } from "../../show/types";

/** A yes or no beside its words. */
export function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <chakra.label display="flex" alignItems="center" gap="7px" fontSize="12.5px" mb="5px" cursor="pointer">
      <chakra.input type="checkbox" checked={on} accentColor="{colors.brass}" onChange={(event) => onChange(event.target.checked)} />
      {label}
    </chakra.label>
  );
}

/** What a sheet is called, its paper, and what stands at its edge. */
export function SheetFields({ sheet }: { sheet: Thing<"sheet"> }) {
  const { body } = sheet;
  const set = (values: Partial<EditArgs["set sheet"]>) => edit("set sheet", { ids: [sheet.id], ...values });
  const quietly = (values: Partial<EditArgs["set sheet"]>) => void set(values).catch(() => undefined);
  return (
    <Section title="The sheet">
      <Field label="Number" value={body.number ?? ""} numeric={false} onCommit={(number) => set({ number })} />
      <Field label="Name" value={body.name} numeric={false} onCommit={(name) => set({ name })} />
      <Choice label="Paper" value={(body.paper ?? "A1") as (typeof PAPERS)[number]} options={PAPERS} onChange={(paper) => quietly({ paper })} />
      <Segments name="How the sheet lies" value={body.upright ? "upright" : "across"} options={[{ value: "across", label: "Across" }, { value: "upright", label: "Upright" }]} onChange={(lies) => quietly({ upright: lies === "upright" })} />
      <Field label="Drawn by" value={body.drawn_by ?? ""} numeric={false} onCommit={(drawn_by) => set({ drawn_by })} />
      <Field label="Remark" value={body.note ?? ""} numeric={false} onCommit={(note) => set({ note })} />
      <Tick label="Symbols explained, with counts" on={body.legend ?? true} onChange={(legend) => quietly({ legend })} />
      <Tick label="Where on the rig, as a small plan" on={body.key_plan ?? false} onChange={(key_plan) => quietly({ key_plan })} />
      <Flex mt="6px">
        <Action look="quiet" height="24px" onClick={() => void edit("remove", { ids: [sheet.id] }).then(() => usePapers.setState({ sheet: "" }), () => undefined)}>Remove this sheet</Action>
      </Flex>
    </Section>
  );
}
