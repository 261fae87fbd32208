import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Segments, Sign } from "../../kit/controls";
import { settings, useShow } from "../../show/document";
import { beginDrawing, bendLast, bendThroughClick, closeOutline, drawShape, drawTyped, leaveDrawing, outlineNow, placeFirst, type Shape, takeBack, useDrawing } from "../../show/drawing";
import { degreesOf, metresOf } from "../../show/format";
import { areaOf } from "../../stage/tools/draw";

/** Draw an outline in the plan by clicking, or by typing lengths and directions; Enter closes, Backspace takes back. */
export function DrawOutline({ wall, upright = false, onDone }: { wall: boolean; upright?: boolean; onDone: () => void }) {
  const { on: inHand, corners, closed, next, editing, shape, bending } = useDrawing();
  const on = inHand && !editing;
  const system = useShow((state) => settings(state.objects).system);
  const [far, setFar] = useState("");
  const [way, setWay] = useState("0");
  const [wrong, setWrong] = useState("");
  // What Enter does changes with every corner; that it does something changes only when drawing begins or ends.
  const finish = useRef(closeOutline);
  useEffect(() => {
    finish.current = closed || (wall && corners.length > 1) ? onDone : closeOutline;
  });
  useEffect(() => {
    if (!on) return;
    useDrawing.setState({ finish: () => finish.current() });
    return () => useDrawing.setState({ finish: null });
  }, [on]);
  if (!on) {
    return (
      <Action mb="8px" width="100%" onClick={() => beginDrawing(upright)}>
        {upright ? "Draw it in an elevation" : "Draw an outline instead"}
      </Action>
    );
  }
  const add = () => {
    if (!corners.length) {
      const [x, y] = far.split(/[,;]/).map((part) => metresOf(part, system));
      if (x == null || y == null) {
        setWrong("Type the first corner as two lengths, such as -4, 0: how far stage left, how far upstage. Or click it.");
        return;
      }
      placeFirst(x, y);
    } else {
      const metres = metresOf(far, system);
      const degrees = degreesOf(way);
      if (metres === null || metres === 0 || degrees === null) {
        setWrong("Type a length such as 6m or 20ft, and a direction in degrees: 0 towards stage left, 90 upstage.");
        return;
      }
      drawTyped(metres, degrees);
    }
    setWrong("");
    setFar("");
  };
  const outline = outlineNow({ shape, corners, closed });
  const where = upright ? "in an elevation" : "in the plan";
  const first = shape === "circle" ? `Click its middle ${where}` : `Click the first corner ${where}`;
  const box = { bg: "ink1", border: "1px solid", borderColor: "line", borderRadius: "4px", height: "26px", px: "8px", fontSize: "12.5px", fontFamily: "mono", textAlign: "right", minWidth: 0 } as const;
  const last = corners[corners.length - 1];
  const enter = (event: React.KeyboardEvent) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    if (!far.trim() && corners.length > 2) closeOutline();
    else add();
  };
  return (
    <Box mb="10px" p="8px" bg="ink1" borderRadius="5px" border="1px solid" borderColor="brassDeep" role="group" aria-label="Drawing">
      <Flex justify="space-between" fontSize="12px" mb="6px">
        <Box color="brass">{bending ? "Click where it passes through" : closed ? `Closed, ${areaOf(outline).toFixed(2)} m²` : corners.length ? `${corners.length} corners` : first}</Box>
        <Box color="dim" fontFamily="mono">{next && !closed ? `${next[0].toFixed(2)}, ${next[1].toFixed(2)}` : last ? `${last[0].toFixed(2)}, ${last[1].toFixed(2)}` : ""}</Box>
      </Flex>
      <Box mb="6px">
        <Segments<Shape>
          name="What a click draws"
          value={shape}
          onChange={drawShape}
          options={[{ value: "lines", label: "Lines" }, { value: "curve", label: "Curve" }, { value: "rectangle", label: "Box" }, { value: "circle", label: "Circle" }]}
        />
      </Box>
      {!closed && (
        <Flex gap="6px" mb="6px" align="center">
          <chakra.input {...box} flex="1" aria-label={corners.length ? "Length of the next line" : "First corner"} placeholder={corners.length ? "6m" : "-4, 0"} value={far} onChange={(event) => setFar(event.target.value)} onKeyDown={enter} />
          {corners.length > 0 && <chakra.input {...box} width="56px" aria-label="Direction of the next line" value={way} onChange={(event) => setWay(event.target.value)} onKeyDown={enter} />}
          <Action height="26px" onClick={add}>Take</Action>
        </Flex>
      )}
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      <Flex gap="6px" wrap="wrap">
        {!closed && corners.length > 2 && <Action height="24px" onClick={closeOutline}>Close it</Action>}
        {corners.length > 1 && (
          <>
            <Action look="quiet" height="24px" onClick={() => bendLast(0.414214)}>Bend the last</Action>
            <Action look={bending ? "on" : "quiet"} height="24px" onClick={bendThroughClick}>Through a click</Action>
            <Action look="quiet" height="24px" onClick={() => bendLast(0)}>Straighten it</Action>
          </>
        )}
        {corners.length > 0 && <Action look="quiet" height="24px" onClick={takeBack}>{closed ? "Open it" : "Take the last back"}</Action>}
        <Action look="quiet" height="24px" onClick={leaveDrawing}>Leave</Action>
      </Flex>
      <Box fontSize="11px" color="faint" mt="4px">Snaps to corners, middles, crossings, lines and the datums. Shift: straight. Ctrl: free. Enter closes.</Box>
    </Box>
  );
}
