import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Input, Sign } from "../kit/controls";
import { edit } from "./edits";

/**
 * Copies of what is selected, each further on by the same shift, and mirror images across the centre line; what hangs on
 * it or is on it comes along.
 */
export function Copies({ ids }: { ids: string[] }) {
  const [texts, setTexts] = useState({ count: "1", x: "0", y: "0", z: "0" });
  const [wrong, setWrong] = useState("");
  const put = (field: keyof typeof texts) => (text: string) => setTexts({ ...texts, [field]: text });
  const told = (done: Promise<unknown>) => {
    setWrong("");
    void done.catch((error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  };
  const made = (Number(texts.count) || 1) * ids.length;
  return (
    <>
      <Input label="Copies" value={texts.count} onChange={put("count")} />
      <Input label="Each SL by" value={texts.x} onChange={put("x")} />
      <Input label="Each US by" value={texts.y} onChange={put("y")} />
      <Input label="Each up by" value={texts.z} onChange={put("z")} />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      <Flex gap="6px" wrap="wrap">
        <Action height="26px" onClick={() => told(edit("duplicate", { ids, ...texts }, { select: true, quiet: true }))}>Make {made} {made === 1 ? "copy" : "copies"}</Action>
        <Action look="quiet" height="26px" onClick={() => told(edit("mirror", { ids, keep: true }, { select: true, quiet: true }))}>Mirror a copy</Action>
        <Action look="quiet" height="26px" onClick={() => told(edit("mirror", { ids }, { quiet: true }))}>Mirror</Action>
      </Flex>
    </>
  );
}
