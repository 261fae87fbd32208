import { called, things } from "./document";
import type { LabelPart, StageLabels } from "../stage/data";
import { address } from "./format";
import type { Row, ShowDocument, Thing } from "./types";

export const LABEL_FIELDS = ["number", "unit", "address", "type", "purpose", "note", "circuit", "dimmer", "mode", "position", "colour"] as const;
export const LABEL_SHAPES = ["plain", "box", "circle", "hexagon", "lozenge", "bar"] as const;
export const LABEL_VIEWS = ["plan", "front", "back", "left", "right", "section", "free"] as const;

/** What a field of a fixture says on a label; empty: nothing. */
export function labelText(fixture: Thing<"fixture">, field: string, objects: Record<string, Row>, types: ShowDocument["types"]): string {
  const { body } = fixture;
  if (field === "address") return address(body.universe, body.address).replace("none", "");
  if (field === "type") return types[body.type]?.name ?? "";
  if (field === "colour") return body.gel?.name ?? "";
  if (field === "position") return called(objects[body.hang?.structure ?? ""]);
  return String((body as unknown as Record<string, unknown>)[field] ?? "");
}

/** The label styles with the texts of their fixtures, for the stage. */
export function stageLabels(objects: Record<string, Row>, types: ShowDocument["types"]): StageLabels[] {
  const fixtures = things(objects, "fixture");
  return things(objects, "label style").map(({ body }) => {
    const texts = new Map<string, LabelPart[]>();
    for (const fixture of fixtures) {
      if (body.types?.length && !body.types.includes(fixture.body.type)) continue;
      const parts = (body.parts ?? []).flatMap(([field, shape]) => {
        const text = labelText(fixture, field, objects, types);
        return text ? [{ field, text, shape }] : [];
      });
      if (parts.length) texts.set(fixture.id, parts);
    }
    return { views: body.views ?? [], sizeMm: body.size_mm ?? 180, sizePx: body.size_px ?? 11, leader: body.leader ?? true, texts };
  });
}
