import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { isA } from "../../kinds";
import { Action, Choice, Input, Section, Sign } from "../../kit/controls";
import { Copies } from "../../show/Copies";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { useSelection } from "../../show/selection";
import type { EditArgs } from "../../show/types";
import { usuals } from "../../show/usual";

type Do = "copy" | "repeat" | "turn" | "align";

const BEGIN = { columns: "3", rows: "1", across: "1m", back: "1m", around: "6", cx: "0", cy: "0", span: "360", degrees: "90", over: "0" };

/** What can be done with the things that are selected, all at once. */
export function Arrange() {
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const ids = selection.filter((id) => isA(objects[id]?.kind, "placed") || objects[id]?.kind === "carrier");
  const trusses = ids.filter((id) => objects[id]?.kind === "truss").length;
  const [how, setHow] = useState<Do>("copy");
  const [texts, setTexts] = useState(() => usuals(BEGIN, settings(useShow.getState().objects).system));
  const [wrong, setWrong] = useState("");
  if (!ids.length) return null;
  const put = (field: keyof typeof texts) => (text: string) => setTexts({ ...texts, [field]: text });
  const run = <K extends keyof EditArgs>(kind: K, args: EditArgs[K], chooses = false) => {
    setWrong("");
    void edit(kind, args, { select: chooses, quiet: true }).catch((error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  };
  const ways: { value: Do; label: string }[] = [
    { value: "copy", label: "copies and mirror images" }, { value: "repeat", label: "grid or arc of them" }, { value: "turn", label: "turn, join, set down" }, { value: "align", label: "in line, spread" },
  ];
  return (
    <Section title={`Arrange ${many(ids.length, "thing")}`}>
      <Choice label="By" value={how} options={ways} onChange={setHow} />
      {how === "copy" && (
        <Copies ids={ids} />
      )}
      {how === "repeat" && (
        <>
          <Input label="In a row" value={texts.columns} onChange={put("columns")} />
          <Input label="Rows" value={texts.rows} onChange={put("rows")} />
          <Input label="SL apart" value={texts.across} onChange={put("across")} />
          <Input label="US apart" value={texts.back} onChange={put("back")} />
          <Action height="26px" mb="8px" onClick={() => run("repeat", { ids, how: "grid", columns: texts.columns, rows: texts.rows, across: texts.across, back: texts.back }, true)}>
            Repeat on a grid, {(Number(texts.columns) || 1) * (Number(texts.rows) || 1)} in all
          </Action>
          <Input label="On the arc" value={texts.around} onChange={put("around")} />
          <Input label="About SL / SR" value={texts.cx} onChange={put("cx")} />
          <Input label="About US / DS" value={texts.cy} onChange={put("cy")} />
          <Input label="Span, °" value={texts.span} onChange={put("span")} />
          <Action height="26px" onClick={() => run("repeat", { ids, how: "arc", count: texts.around, x: texts.cx, y: texts.cy, span: texts.span }, true)}>
            Repeat on an arc, {texts.around} in all
          </Action>
        </>
      )}
      {how === "turn" && (
        <>
          <Input label="Degrees" value={texts.degrees} onChange={put("degrees")} />
          <Flex gap="6px" wrap="wrap">
            <Action height="26px" onClick={() => run("rotate", { ids, degrees: texts.degrees, about: "common" })}>Turn as one</Action>
            <Action look="quiet" height="26px" onClick={() => run("rotate", { ids, degrees: texts.degrees, about: "own" })}>Each about itself</Action>
            <Action look="quiet" height="26px" onClick={() => run("drop", { ids })}>Set on what is below</Action>
            {trusses > 1 && <Action look="quiet" height="26px" onClick={() => run("join ends", { ids })}>Join {trusses} ends</Action>}
          </Flex>
          <Flex gap="6px" mt="6px" align="flex-start">
            <Box flex="1"><Input label="Over it" value={texts.over} onChange={put("over")} /></Box>
            <Action look="quiet" height="26px" onClick={() => run("set above", { ids, height: texts.over })}>Set so high over what is below</Action>
          </Flex>
        </>
      )}
      {how === "align" && (
        <Box fontSize="12px">
          {([["x", "SR edges", "middles", "SL edges"], ["y", "DS edges", "middles", "US edges"], ["z", "feet", "middles", "tops"]] as const).map(([axis, low, middle, high]) => (
            <Flex key={axis} gap="4px" mb="4px">
              {([["low", low], ["middle", middle], ["high", high]] as const).map(([edge, label]) => (
                <Action key={edge} height="24px" flex="1" fontSize="11.5px" aria-label={`Align ${label}, ${axis}`} onClick={() => run("align", { ids, axis, edge })}>{label}</Action>
              ))}
            </Flex>
          ))}
          {ids.length > 2 && (
            <Flex gap="4px" wrap="wrap">
              {(["x", "y"] as const).flatMap((axis) =>
                (["middles", "gaps"] as const).map((what) => (
                  <Action key={axis + what} look="quiet" height="24px" onClick={() => run("spread", { ids, axis, what })}>
                    Even {what}, {axis === "x" ? "SR to SL" : "DS to US"}
                  </Action>
                )),
              )}
            </Flex>
          )}
        </Box>
      )}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
    </Section>
  );
}
