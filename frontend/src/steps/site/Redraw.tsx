import { Box, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { isA } from "../../kinds";
import { Action, Section, Sign } from "../../kit/controls";
import { settings, useShow } from "../../show/document";
import { cornersFor, dropCorner, editOutline, leaveDrawing, outlineOf, useDrawing } from "../../show/drawing";
import { edit } from "../../show/edits";
import { useSelection } from "../../show/selection";
import { usual } from "../../show/usual";
import { areaOf } from "../../stage/tools/draw";

/** The outline of what is selected, taken in hand: corners dragged, lines cut, corners taken out, or set further out. */
export function Redraw() {
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const { on, editing, corners, closed } = useDrawing();
  const [by, setBy] = useState(() => usual("0.5m", settings(useShow.getState().objects).system));
  const [wrong, setWrong] = useState("");
  const id = selection.length === 1 ? selection[0] : undefined;
  const outline = outlineOf(id ? objects[id] : undefined);
  if (!id || !outline) return null;
  const told = (error: unknown) => setWrong(error instanceof Error ? error.message : String(error));
  const take = () => {
    setWrong("");
    void edit("set outline", { id, corners: cornersFor(objects[id], corners), closed }, { quiet: true }).then(leaveDrawing, told);
  };
  const further = (sign: string) => {
    setWrong("");
    void edit("offset outline", { id, by: sign + by.replace(/^[+-]/, "") }, { quiet: true }).catch(told);
  };
  return (
    <Section title="Its outline">
      {on && editing === id ? (
        <>
          <Box fontSize="12px" color="dim" mb="6px">
            {corners.length} corners{closed ? `, ${areaOf(corners).toFixed(2)} m²` : ""}. Drag a corner {objects[id]?.kind === "panel" ? "in its elevation" : "in the plan"}; click a line to cut it.
          </Box>
          <Box maxHeight="96px" overflowY="auto" mb="6px">
            {corners.map(([x, y], i) => (
              <Flex key={i} align="center" gap="8px" fontSize="12px">
                <Box width="20px" color="faint" fontFamily="mono" textAlign="right">{i + 1}</Box>
                <Box flex="1" fontFamily="mono">{x.toFixed(2)}, {y.toFixed(2)}</Box>
                <Action look="quiet" height="20px" px="4px" aria-label={`Take corner ${i + 1} out`} onClick={() => dropCorner(i)}>×</Action>
              </Flex>
            ))}
          </Box>
          <Flex gap="6px">
            <Action height="26px" onClick={take}>Set the outline</Action>
            <Action look="quiet" height="26px" onClick={leaveDrawing}>Leave it</Action>
          </Flex>
        </>
      ) : (
        <Flex gap="6px" align="center" wrap="wrap">
          <Action height="26px" onClick={() => editOutline(id)}>Change its corners</Action>
          {outline.closed && isA(objects[id]?.kind, "offset") && (
            <>
              <input aria-label="How far to set the outline" value={by} onChange={(event) => setBy(event.target.value)} style={{ width: 56, height: 26, textAlign: "right", background: "transparent", border: "1px solid var(--chakra-colors-line)", borderRadius: 4, padding: "0 6px" }} />
              <Action look="quiet" height="26px" onClick={() => further("+")}>Out</Action>
              <Action look="quiet" height="26px" onClick={() => further("-")}>In</Action>
            </>
          )}
        </Flex>
      )}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
    </Section>
  );
}
