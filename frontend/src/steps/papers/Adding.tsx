import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Input, Section } from "../../kit/controls";
import { called, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { LOOKS, usePapers } from "../../show/papers";
import type { EditArgs, Thing } from "../../show/types";

/** What more goes on a sheet: a view, words, a dimension between two places. */
export function Adding({ sheet }: { sheet: Thing<"sheet"> }) {
  const objects = useShow((state) => state.objects);
  const { writing, measuring } = usePapers();
  const [text, setText] = useState("");
  const [what, setWhat] = useState("");
  const structures = [...things(objects, "truss"), ...things(objects, "carrier")];
  const add = (value: string) => {
    setWhat("");
    const look = LOOKS.find((one) => one.value === value)?.value;
    const args: EditArgs["add view"] = look ? { id: sheet.id, look } : { id: sheet.id, of: [value] };
    void edit("add view", args).catch(() => undefined);
  };
  return (
    <Section title="Put on it">
      <Choice
        label="A view" value={what} onChange={add}
        options={[{ value: "", label: "choose what it shows" }, ...LOOKS.filter((one) => one.value !== "square").map((one) => ({ value: one.value as string, label: one.label })), ...structures.map((one) => ({ value: one.id, label: one.kind === "carrier" ? `${called(one)} with all on it` : `${called(one)} alone` }))]}
      />
      <Input label="Words" numeric={false} value={text} onChange={setText} hint="to be written on it" />
      <Flex gap="6px">
        <Action flex="1" disabled={!text.trim() && writing === null} look={writing === null ? "plain" : "on"} onClick={() => { usePapers.setState({ writing: writing === null ? text.trim() : null, measuring: false }); setText(""); }}>{writing === null ? "Write them" : "Leave it"}</Action>
        <Action flex="1" look={measuring ? "on" : "plain"} aria-pressed={Boolean(measuring)} onClick={() => usePapers.setState({ measuring: !measuring, writing: null, picked: null })}>Measure</Action>
      </Flex>
    </Section>
  );
}
