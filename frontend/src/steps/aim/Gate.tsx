import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Field, Level, Section } from "../../kit/controls";
import { getBytes, post } from "../../show/api";
import { at, useShow } from "../../show/document";
import { edit, gesture } from "../../show/edits";
import { angle, degreesOf } from "../../show/format";
import type { Thing, Wheels } from "../../show/types";

const PX = 30;
const MASK = 256;
/** The fastest that a slider lets a wheel spin, radians a second either way. */
const SPIN_MOST = Math.PI;

/** Gobos and prisms chosen by their pictures, with index and spin where a type has them. */
export function GateSection({ chosen }: { chosen: Thing<"fixture">[] }) {
  const types = chosen.map((one) => `${one.id}:${one.body.type}/${one.body.mode}`).join();
  const [wheels, setWheels] = useState<Wheels>([]);
  useEffect(() => {
    let alive = true;
    const ids = types.split(",").map((one) => one.split(":")[0] ?? "");
    void post("/api/shows/{show}/wheels", { ...at(), body: { ids } }).then((found) => alive && setWheels(together(found)), () => undefined);
    return () => {
      alive = false;
    };
  }, [types]);
  const held = chosen[0]?.body.hands ?? {};
  if (!wheels.length) return null;
  return (
    <Section title="Gobos and prisms">
      {wheels.map((wheel) => (
        <Wheel key={`${wheel.feature} ${wheel.ids.join()}`} wheel={wheel} held={held} few={wheel.ids.length < chosen.length ? ` (${wheel.ids.length} of ${chosen.length})` : ""} />
      ))}
    </Section>
  );
}

/** Wheels of one feature with the same slots are one, whatever they are built into. */
function together(wheels: Wheels): Wheels {
  const found = new Map<string, Wheels[number]>();
  for (const wheel of wheels) {
    const key = `${wheel.feature} ${wheel.slots.map((slot) => `${slot.name}${slot.image ?? ""}`).join()} ${wheel.turn ?? ""} ${wheel.spin ?? ""}`;
    const before = found.get(key);
    found.set(key, before ? { ...before, ids: [...before.ids, ...wheel.ids] } : wheel);
  }
  return [...found.values()];
}

function Wheel({ wheel, held, few }: { wheel: Wheels[number]; held: Record<string, number>; few: string }) {
  const { ids, feature, turn, spin } = wheel;
  const hold = (values: Record<string, number>) => edit("hold values", { ids, values }, { quiet: true });
  const turned = turn ? held[turn] : undefined;
  return (
    <Box mb="8px">
      <Box fontSize="11px" color="faint" mb="4px">{wheel.type}, {feature.replace(" slot", "")} wheel{few}</Box>
      <Flex gap="4px" wrap="wrap" mb="6px" role="group" aria-label={`${feature} of ${wheel.type}`}>
        {wheel.slots.map(({ slot, name, image }) => (
          <chakra.button
            key={slot} type="button" aria-label={name} title={name} aria-pressed={(held[feature] ?? 1) === slot} border="2px solid" borderRadius="5px" cursor="pointer" overflow="hidden" bg="ink0"
            width={`${PX}px`} height={`${PX}px`} borderColor={(held[feature] ?? 1) === slot ? "brass" : "line"} color="dim" fontSize="10px" onClick={() => void hold({ [feature]: slot }).catch(() => undefined)}
          >
            {image ? <Mask image={image} /> : slot === 1 ? "○" : name.slice(0, 3)}
          </chakra.button>
        ))}
      </Flex>
      {turn && (
        <Field
          onNotches={(notches) => hold({ [turn]: (turned ?? 0) + (notches * Math.PI) / 180 })}
          label="Index" value={turned === undefined ? "" : angle((turned * 180) / Math.PI)} hint="degrees" signed={{ signs: "own", base: ((turned ?? 0) * 180) / Math.PI, read: degreesOf, shown: angle }}
          onCommit={(text) => {
            const degrees = degreesOf(text);
            return degrees === null ? Promise.reject(new Error("Type an angle in degrees, such as 45.")) : hold({ [turn]: (degrees * Math.PI) / 180 });
          }}
        />
      )}
      {spin && (
        // Still in the middle.
        <Level
          label="Spin" value={((held[spin] ?? 0) / SPIN_MOST + 1) / 2} onMove={(share) => gesture("hold values", { ids, values: { [spin]: speed(share) } })}
          onChange={(share) => void hold({ [spin]: speed(share) }).catch(() => undefined)}
        />
      )}
    </Box>
  );
}

const speed = (share: number): number => (Math.abs(share - 0.5) < 0.03 ? 0 : (share * 2 - 1) * SPIN_MOST);

/** A gobo as it lets light through: its mask, rows from the top. */
function Mask({ image }: { image: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const show = useShow((state) => state.id);
  useEffect(() => {
    let alive = true;
    void getBytes(`/api/gobos/${image}`).then(
      (data) => {
        const context = alive ? canvas.current?.getContext("2d") : null;
        if (!context) return;
        const bytes = new Uint8Array(data);
        const pixels = context.createImageData(MASK, MASK);
        for (let i = 0; i < MASK * MASK; i++) pixels.data.fill(bytes[i] ?? 0, i * 4, i * 4 + 3).fill(255, i * 4 + 3, i * 4 + 4);
        context.putImageData(pixels, 0, 0);
      },
      () => undefined,
    );
    return () => {
      alive = false;
    };
  }, [image, show]);
  return <canvas ref={canvas} width={MASK} height={MASK} style={{ width: "100%", height: "100%" }} />;
}
