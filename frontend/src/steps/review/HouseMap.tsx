import { Box } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { FACES, PALETTE } from "../../kit/theme";
import { placeOf, things, useShow } from "../../show/document";
import { seenColour, useReview } from "../../show/review";
import type { Seen } from "./useSeats";
import { SEEN } from "./usePainted";

const MARGIN_PX = 14;
const REACH_PX = 12;
type Spot = [number, number];

/** The plan as it fits: turned so that upstage is to the right where the house is longer than it is wide. */
export function fitted(places: readonly Spot[], width: number, height: number): { to: (place: Spot) => Spot; turned: boolean; scale: number } {
  const xs = places.map(([x]) => x);
  const ys = places.map(([, y]) => y);
  const [left, right, low, high] = places.length ? [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)] : [-5, 5, -5, 5];
  const [wide, deep] = [Math.max(right - left, 1), Math.max(high - low, 1)];
  const [w, h] = [width - 2 * MARGIN_PX, height - 2 * MARGIN_PX];
  const upright = Math.min(w / wide, h / deep);
  const lying = Math.min(w / deep, h / wide);
  const turned = lying > upright * 1.2;
  const scale = Math.max(turned ? lying : upright, 0.01);
  const [cx, cy] = [(left + right) / 2, (low + high) / 2];
  return { turned, scale, to: ([x, y]) => (turned ? [width / 2 + (y - cy) * scale, height / 2 + (x - cx) * scale] : [width / 2 + (x - cx) * scale, height / 2 - (y - cy) * scale]) };
}

/** The corners of the decks in plan. */
function useDecks(): Spot[][] {
  const objects = useShow((state) => state.objects);
  return useMemo(
    () =>
      things(objects, "deck").map((deck) => {
        const [x, y] = placeOf(deck) ?? [0, 0];
        const [w, d] = [(deck.body.width_m ?? 2) / 2, (deck.body.depth_m ?? 1) / 2];
        const turn = ((deck.body.turn_deg ?? 0) * Math.PI) / 180;
        const corners: Spot[] = deck.body.corners?.length ? deck.body.corners.map(([a, b]) => [a, b]) : [[-w, -d], [w, -d], [w, d], [-w, d]];
        return corners.map(([a, b]): Spot => [x + a * Math.cos(turn) - b * Math.sin(turn), y + a * Math.sin(turn) + b * Math.cos(turn)]);
      }),
    [objects],
  );
}

/** The house from above: a seat is clicked to look from it, and coloured by what was asked. */
export function HouseMap({ seats, onSeat }: { seats: readonly Seen[]; onSeat: (seat: Seen) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<Spot>([400, 150]);
  const decks = useDecks();
  const { sight, seat: chosen, place } = useReview();
  const seen = useMemo(() => new Map(sight?.seats.map((one) => [one.id, one.seen])), [sight]);
  const plan = useMemo(() => fitted([...seats.map(({ eye: [x, y] }): Spot => [x, y]), ...decks.flat()], ...size), [seats, decks, size]);
  useEffect(() => {
    const box = canvas.current?.parentElement;
    if (!box) return undefined;
    const watch = new ResizeObserver(() => setSize([box.clientWidth, box.clientHeight]));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const ratio = window.devicePixelRatio || 1;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.clearRect(0, 0, ...size);
    pen.strokeStyle = PALETTE.line;
    pen.fillStyle = PALETTE.ink2;
    for (const deck of decks) {
      pen.beginPath();
      deck.forEach((corner, i) => (i ? pen.lineTo(...plan.to(corner)) : pen.moveTo(...plan.to(corner))));
      pen.closePath();
      pen.fill();
      pen.stroke();
    }
    const radius = Math.min(Math.max(plan.scale * 0.2, 1.6), 5);
    for (const one of seats) {
      const [x, y] = plan.to([one.eye[0], one.eye[1]]);
      pen.beginPath();
      pen.arc(x, y, one.id === chosen ? radius * 1.8 : radius, 0, 2 * Math.PI);
      pen.fillStyle = seenColour(sight ? seen.get(one.id) : undefined, SEEN);
      pen.fill();
      if (one.id !== chosen) continue;
      pen.strokeStyle = PALETTE.brass;
      pen.lineWidth = 1.6;
      pen.stroke();
    }
    if (place && sight) {
      const [x, y] = plan.to([place.point[0], place.point[1]]);
      pen.strokeStyle = PALETTE.brass;
      pen.lineWidth = 1.6;
      pen.beginPath();
      pen.arc(x, y, 6, 0, 2 * Math.PI);
      pen.moveTo(x - 9, y);
      pen.lineTo(x + 9, y);
      pen.moveTo(x, y - 9);
      pen.lineTo(x, y + 9);
      pen.stroke();
    }
    pen.fillStyle = PALETTE.dim;
    pen.font = `10.5px ${FACES.numbers}`;
    pen.fillText(plan.turned ? "US →" : "US ↑", 8, 14);
  }, [seats, decks, plan, size, chosen, sight, seen, place]);
  const ratio = window.devicePixelRatio || 1;
  return (
    <Box position="relative" flex="1 1 0" minWidth="0" overflow="hidden" borderRight="1px solid" borderColor="line">
      <canvas
        ref={canvas} role="img" aria-label={`The house from above, ${seats.length} seats: click one to look from it`}
        width={size[0] * ratio} height={size[1] * ratio} style={{ position: "absolute", inset: 0, width: size[0], height: size[1], cursor: "pointer" }}
        onClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const here: Spot = [event.clientX - box.left, event.clientY - box.top];
          const far = (one: Seen) => Math.hypot(...(plan.to([one.eye[0], one.eye[1]]).map((value, i) => value - (here[i] ?? 0)) as Spot));
          const [nearest] = [...seats].sort((a, b) => far(a) - far(b));
          if (nearest && far(nearest) < REACH_PX) onSeat(nearest);
        }}
      />
    </Box>
  );
}
