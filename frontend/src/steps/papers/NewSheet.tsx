import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Foot, Section, Segments } from "../../kit/controls";
import { thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { LOOKS, PAPERS, seeSheet, type SheetLook } from "../../show/papers";
import { useSelection } from "../../show/selection";

/** Make a sheet: of everything from one side, or of the structures that are selected. */
export function NewSheet({ first = false }: { first?: boolean }) {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const alone = selection.filter((id) => thing(objects, id, "truss") ?? thing(objects, id, "carrier"));
  const [look, setLook] = useState<SheetLook | "empty" | "alone">("plan");
  const [paper, setPaper] = useState<(typeof PAPERS)[number]>("A1");
  const [lies, setLies] = useState<"across" | "upright">("across");
  const made = look === "alone" && !alone.length ? "plan" : look;
  const add = () =>
    void edit("add sheet", { paper, upright: lies === "upright", ...(made === "alone" ? { of: alone } : made === "empty" ? {} : { look: made }) }).then((done) => seeSheet(done.select?.[0] ?? ""), () => undefined);
  return (
    <Section title="Another sheet">
      <Choice label="With" value={made} options={[...LOOKS.filter((one) => one.value !== "square"), ...(alone.length ? [{ value: "alone" as const, label: `What is selected alone (${alone.length})` }] : []), { value: "empty" as const, label: "Nothing yet" }]} onChange={setLook} />
      <Choice label="On" value={paper} options={PAPERS} onChange={setPaper} />
      <Segments name="How the new sheet lies" value={lies} options={[{ value: "across", label: "Lies across" }, { value: "upright", label: "Stands upright" }]} onChange={setLies} />
      {first ? <Foot><Action look="main" onClick={add}>Make the sheet</Action></Foot> : <Action width="100%" onClick={add}>Make the sheet</Action>}
      {!alone.length && <Box color="dim" fontSize="11.5px" mt="6px">A structure that is selected in Site or Hang can have a sheet alone.</Box>}
    </Section>
  );
}
