import { Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Input, Section, Sign } from "../../kit/controls";
import { pickPlace } from "../../show/drawing";
import { edit } from "../../show/edits";

const typed = (metres: number, positive: string, negative: string): string => `${metres < 0 ? negative : positive} ${Math.abs(metres).toFixed(3)}m`;

/** Where the centre line and the setting line cross: moved by typing or by a click in the plan. Nothing moves in the room. */
export function Datums() {
  const [x, setX] = useState("0");
  const [y, setY] = useState("0");
  const [wrong, setWrong] = useState("");
  const move = (toX: string, toY: string) => {
    setWrong("");
    void edit("move datums", { x: toX, y: toY }, { quiet: true }).then(
      () => {
        setX("0");
        setY("0");
      },
      (error: unknown) => setWrong(error instanceof Error ? error.message : String(error)),
    );
  };
  return (
    <Section title="Centre line and setting line">
      <Input label="Centre line to" value={x} hint="SL 0.5" onChange={setX} />
      <Input label="Setting to" value={y} hint="US 1" onChange={setY} />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      <Flex gap="6px">
        <Action height="26px" onClick={() => move(x, y)}>Move the datums</Action>
        <Action look="quiet" height="26px" onClick={() => pickPlace(([px, py]) => move(typed(px, "SL", "SR"), typed(py, "US", "DS")))}>Click where they cross</Action>
      </Flex>
    </Section>
  );
}
