import { Box, chakra, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { Action, Empty, Input } from "../../kit/controls";
import { called, things, useShow } from "../../show/document";
import { edit, seen } from "../../show/edits";
import { many } from "../../show/format";
import { looksWith } from "../../show/looks";
import { select } from "../../show/selection";
import type { EditArgs, Thing } from "../../show/types";
import { swatch } from "./Colour";

type Sort = EditArgs["keep palette"]["sort"];
const SORTS: [Sort, string][] = [["position", "Positions"], ["colour", "Colours"], ["beam", "Beams"]];
const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** The palettes as tiles: given to the selection by a click, kept anew, and who has them. */
export function Palettes({ chosen }: { chosen: readonly Thing<"fixture">[] }) {
  const objects = useShow((state) => state.objects);
  const palettes = things(objects, "palette");
  const ids = chosen.map((one) => one.id);
  const [name, setName] = useState("");
  const [coming, setComing] = useState("");
  const keep = (sort: Sort) => quietly(edit("keep palette", { ids, sort, name }).then(() => setName("")));
  return (
    <Box overflow="auto" flex="1" px="14px" py="8px">
      {ids.length > 0 && (
        <Flex gap="6px" align="center" mb="8px" css={{ "& > button": { marginBottom: "6px" } }}>
          <Box width="260px"><Input label="Keep as" value={name} onChange={setName} numeric={false} hint="a name" /></Box>
          {SORTS.map(([sort]) => (
            <Action key={sort} height="24px" title={`Keep what ${many(ids.length, "fixture")} hold as a ${sort} palette`} onClick={() => keep(sort)}>
              Keep the {sort}
            </Action>
          ))}
        </Flex>
      )}
      {ids.length > 0 && palettes.length > 0 && (
        <Box role="status" fontSize="11.5px" color="dim" mb="6px" minHeight="16px">{coming || "Point at a palette to see what would change."}</Box>
      )}
      {!palettes.length && <Empty>Palettes go here. Aim or colour some fixtures, select them and keep that under a name: it can be given to any others.</Empty>}
      {SORTS.map(([sort, title]) => {
        const some = palettes.filter((one) => one.body.sort === sort);
        return some.length ? (
          <Box key={sort} mb="8px" role="group" aria-label={title}>
            <Box fontSize="11px" fontWeight={600} color="faint" mb="4px">{title}</Box>
            <Flex gap="6px" wrap="wrap">
              {some.map((one) => <Tile key={one.id} palette={one} ids={ids} onComing={setComing} />)}
            </Flex>
          </Box>
        ) : null;
      })}
    </Box>
  );
}

/** What an edit of palettes would come to, in words: who would change, and who cannot. */
async function foreseen(kind: "apply palette" | "update palette", id: string, ids: string[]): Promise<string> {
  try {
    const result = await seen(kind, { id, ids });
    const fixtures = (result.ghost?.objects ?? []).filter((row) => row.kind === "fixture");
    const { objects } = useShow.getState();
    const who = fixtures.length > MANY ? many(fixtures.length, "fixture") : fixtures.map((row) => called(objects[row.id])).join(", ");
    return [`${result.sentence}: ${who ? `${who} would change` : "nobody would change"}.`, ...(result.report ?? [])].join(" ");
  } catch (wrong) {
    return wrong instanceof Error ? wrong.message : String(wrong);
  }
}

const MANY = 16;

function Tile({ palette, ids, onComing }: { palette: Thing<"palette">; ids: string[]; onComing: (says: string) => void }) {
  const over = useRef(0);
  /** Foresees while the pointer or the focus is on it. */
  const foresee = (kind: "apply palette" | "update palette") => {
    const ask = () => {
      const mine = ++over.current;
      if (ids.length) void foreseen(kind, palette.id, ids).then((says) => mine === over.current && onComing(says));
    };
    const leave = () => {
      over.current += 1;
      onComing("");
    };
    return { onMouseEnter: ask, onFocus: ask, onMouseLeave: leave, onBlur: leave };
  };
  const objects = useShow((state) => state.objects);
  const users = things(objects, "fixture").filter((one) => Object.values(one.body.palettes ?? {}).includes(palette.id));
  const inLooks = looksWith(objects, palette.id);
  const has = ids.length > 0 && ids.every((id) => users.some((one) => one.id === id));
  return (
    <Flex border="1px solid" borderColor={has ? "verdigris" : "line"} borderRadius="6px" overflow="hidden" width="216px">
      <chakra.button
        type="button" aria-label={`Give ${palette.body.name}`} title={ids.length ? `Give ${many(ids.length, "fixture")} ${palette.body.name}` : `Select who has it: ${users.map(called).join(", ") || "nobody"}`}
        {...foresee("apply palette")} flex="1" minWidth="0" display="flex" gap="8px" alignItems="center" p="5px" cursor="pointer" textAlign="left" _hover={{ bg: "ink3" }}
        onClick={() => (ids.length ? quietly(edit("apply palette", { id: palette.id, ids })) : select(users.map((one) => one.id)))}
      >
        <Picture palette={palette} />
        <Box minWidth="0">
          <Box fontSize="12.5px" truncate>{palette.body.name}</Box>
          <Box fontSize="11px" color="faint" truncate>{users.length ? `${many(users.length, "fixture")} ${users.length === 1 ? "has" : "have"} it` : "nobody has it"}{inLooks && `, looks ${inLooks}`}</Box>
        </Box>
      </chakra.button>
      {ids.length > 0 && (
        <Action look="quiet" height="auto" px="6px" fontSize="11px" {...foresee("update palette")} aria-label={`Update ${palette.body.name}`} title={users.length ? `Keep it anew from the selection: ${users.map(called).join(", ")} change with it` : "Keep it anew from the selection"} onClick={() => quietly(edit("update palette", { id: palette.id, ids }))}>
          Update
        </Action>
      )}
    </Flex>
  );
}

const R = 13;

/** What a palette is, at a glance: its colour, its place in plan, the shape of its beam. */
function Picture({ palette }: { palette: Thing<"palette"> }) {
  const objects = useShow((state) => state.objects);
  const { sort, xy, values, focus, aims } = palette.body;
  if (sort === "colour") return <Box width={`${2 * R}px`} height={`${2 * R}px`} borderRadius="4px" flex="none" style={{ background: xy ? swatch(xy as [number, number]) : undefined }} />;
  if (sort === "beam") {
    const wide = Math.min(Math.max((values?.zoom ?? 20) / 60, 0.15), 1) * R * (values?.iris ?? 1);
    return (
      <chakra.svg width={`${2 * R}px`} height={`${2 * R}px`} viewBox={`${-R} ${-R} ${2 * R} ${2 * R}`} flex="none" fill="none" stroke="dim" aria-hidden>
        <circle r={R - 1} strokeWidth="0.6" />
        <chakra.circle r={wide} fill="text" stroke="none" opacity={1 - 0.5 * (values?.frost ?? 0)} />
      </chakra.svg>
    );
  }
  const point = focus ? (objects[focus]?.body as { position?: [number, number, number] } | undefined)?.position : undefined;
  const places = point ? [point] : Object.values(aims ?? {}).map((one) => one.place as [number, number, number]);
  return (
    <chakra.svg width={`${2 * R}px`} height={`${2 * R}px`} viewBox="-10 -12 20 20" flex="none" fill="none" stroke="dim" aria-hidden>
      <path d="M0-12V8M-10 0H10" strokeWidth="0.4" />
      {places.slice(0, 40).map(([x, y], i) => (
        <chakra.circle key={i} cx={Math.min(Math.max(x, -9), 9)} cy={Math.min(Math.max(-y, -11), 7)} r="1.6" fill="brass" stroke="none" />
      ))}
    </chakra.svg>
  );
}
