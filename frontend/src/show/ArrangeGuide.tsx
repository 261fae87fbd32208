import { Box, Flex } from "@chakra-ui/react";
import { useEffect } from "react";
import { isA } from "../kinds";
import { Action, Choice, Foot, Input, Keys, Section, Segments, Sign } from "../kit/controls";
import type { Vec3 } from "../stage/data";
import { beginArrange, type GuideKind, leaveArrange, setArrange, setHold, takeArrange, useArrange } from "./arranging";
import { things, useShow } from "./document";
import { pickPlace } from "./drawing";
import { many } from "./format";
import { PlaceInput } from "./PlaceInput";
import { useSelection } from "./selection";

type Spacing = "as it is" | "given" | "fill";
type Ends = "on" | "half a step in" | "margin";
type Facing = "keep" | "out" | "in" | "along" | "fan" | "point";
type Order = "number" | "place" | "selection";

/** Bring what is selected onto a line, a ring, a grid or a rail; what it comes to is drawn before it is taken. */
export function ArrangeGuide() {
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const rails = useShow((state) => state.rails);
  const { on, ids, args, hold, said, report, wrong, taken } = useArrange();
  useEffect(() => leaveArrange, []);
  const able = selection.filter((id) => isA(objects[id]?.kind, "placed") || objects[id]?.kind === "fixture");
  if (!on) {
    return (
      <Section title="On a guide line">
        <Box fontSize="12px" color="dim" mb="8px">
          {able.length ? "On a guide line, a ring, a grid or a rail, drawn on the stage with handles to drag. Nothing moves until it is taken." : "Select what to arrange: fixtures, structures, scenery, people, or any mix of them."}
        </Box>
        <Action look="main" disabled={!able.length} onClick={() => beginArrange(able)}>
          Arrange {many(able.length, "thing")}
        </Action>
      </Section>
    );
  }
  const at = (field: string) => (wrong?.field === field ? wrong.text : null);
  const trusses = things(objects, "truss");
  const structure = args.structure || trusses[0]?.id || "";
  const closed = args.guide === "ring" ? Math.abs(Math.abs(parseFloat(args.span ?? "360")) - 360) < 1e-6 : false;
  return (
    <Section title={`Arrange ${many(ids.length, "thing")}`}>
      <Segments<GuideKind>
        name="Guide" value={args.guide} onChange={(guide) => setArrange({ guide, structure, ...(guide === "rail" ? { spacing: "fill" } : {}) })}
        options={[{ value: "line", label: "Line" }, { value: "ring", label: "Ring" }, { value: "grid", label: "Grid" }, { value: "rail", label: "Rail" }]}
      />
      <Box height="8px" />
      {args.guide === "line" && (
        <>
          <PlaceInput label="Starts at" value={args.start as Vec3} onChange={(start) => setArrange({ start })} />
          <PlaceInput label="Ends at" value={args.end as Vec3} onChange={(end) => setArrange({ end })} />
        </>
      )}
      {(args.guide === "ring" || args.guide === "grid") && <PlaceInput label="Middle" value={args.centre as Vec3} onChange={(centre) => setArrange({ centre })} />}
      {args.guide === "ring" && (
        <>
          <Input label="Radius" value={args.radius ?? ""} onChange={(radius) => setArrange({ radius })} wrong={at("radius")} />
          <Input label="At its end" hint="the same" value={args.end_radius ?? ""} onChange={(end_radius) => setArrange({ end_radius })} wrong={at("end_radius")} />
          <Input label="Starts at, °" value={args.start_angle ?? ""} onChange={(start_angle) => setArrange({ start_angle })} />
          <Input label="Span, °" value={args.span ?? ""} onChange={(span) => setArrange({ span })} wrong={at("span")} />
        </>
      )}
      {args.guide === "grid" && (
        <>
          <Input label="In a row" value={args.columns ?? ""} onChange={(columns) => setArrange({ columns })} wrong={at("columns")} />
          <Input label="Apart" value={args.across ?? ""} onChange={(across) => setArrange({ across })} wrong={at("across")} />
          <Input label="Row to row" value={args.back ?? ""} onChange={(back) => setArrange({ back })} wrong={at("back")} />
          <Input label="Turned, °" value={args.turn ?? ""} onChange={(turn) => setArrange({ turn })} />
        </>
      )}
      {args.guide === "rail" && (
        <>
          <Choice label="Structure" value={structure} options={trusses.map((one) => ({ value: one.id, label: one.body.name }))} onChange={(chosen) => setArrange({ structure: chosen, rail: rails[chosen]?.[0]?.name ?? "" })} />
          <Choice label="Its rail" value={args.rail ?? ""} options={(rails[structure] ?? []).map((one) => ({ value: one.name, label: one.label }))} onChange={(rail) => setArrange({ rail })} />
          <Input label="From" hint="its start" value={args.rail_from ?? ""} onChange={(rail_from) => setArrange({ rail_from })} wrong={at("rail_from")} />
          <Input label="To" hint="its end" value={args.rail_to ?? ""} onChange={(rail_to) => setArrange({ rail_to })} wrong={at("rail_to")} />
        </>
      )}
      {args.guide !== "grid" && (
        <>
          <Box mb="6px"><Segments<Spacing> name="Spacing" value={args.spacing ?? "fill"} onChange={(spacing) => setArrange({ spacing })} options={[{ value: "as it is", label: "As it is", says: "Each keeps its own distance to the next" }, { value: "given", label: "Given", says: "In steps of a typed length" }, { value: "fill", label: "Fill", says: "Spread evenly over all of it" }]} /></Box>
          {args.spacing === "given" && (
            <>
              <Input label="Step" value={args.step ?? ""} onChange={(step) => setArrange({ step })} wrong={at("step")} />
              {!closed && <Choice label="Counted from" value={args.step_from ?? "start"} options={[{ value: "start", label: "the start" }, { value: "middle", label: "the middle" }, { value: "end", label: "the end" }]} onChange={(step_from) => setArrange({ step_from })} />}
            </>
          )}
          {args.spacing === "fill" && (
            <>
              <Box mb="6px"><Segments<Ends> name="Ends" value={args.ends ?? "on"} onChange={(ends) => setArrange({ ends })} options={[{ value: "on", label: "On", says: "The outermost on the very ends" }, { value: "half a step in", label: "Half in", says: "The outermost half a step in from the ends" }, { value: "margin", label: "Margin", says: "The outermost a typed length in from the ends" }]} /></Box>
              {args.ends === "margin" && !closed && <Input label="Margin" value={args.margin ?? ""} onChange={(margin) => setArrange({ margin })} wrong={at("margin")} />}
            </>
          )}
        </>
      )}
      <Flex gap="6px" align="flex-start">
        <Box flex="1"><Choice<Order> label="Order" value={args.order ?? "number"} options={[{ value: "number", label: "by number" }, { value: "place", label: "by place" }, { value: "selection", label: "as selected" }]} onChange={(order) => setArrange({ order })} /></Box>
        <Action look={args.reverse ? "on" : "quiet"} height="26px" aria-pressed={args.reverse} aria-label="The other way round" title="The other way round (R)" onClick={() => setArrange({ reverse: !args.reverse })}>⇄</Action>
      </Flex>
      <Choice<Facing>
        label="Facing" value={args.facing ?? "keep"} onChange={(facing) => setArrange({ facing })}
        options={[{ value: "keep", label: "as it is" }, { value: "out", label: "out" }, { value: "in", label: "in" }, { value: "along", label: "along" }, { value: "fan", label: "a fan" }, { value: "point", label: "a place" }]}
      />
      {args.facing === "fan" && (
        <>
          <Input label="From, °" value={args.fan_from ?? ""} onChange={(fan_from) => setArrange({ fan_from })} />
          <Input label="To, °" value={args.fan_to ?? ""} onChange={(fan_to) => setArrange({ fan_to })} />
        </>
      )}
      {args.facing === "point" && (
        <Action look="quiet" height="24px" mb="6px" onClick={() => pickPlace((place) => setArrange({ at: place }), "guide")}>
          {args.at ? `They face ${args.at.map((value) => value.toFixed(2)).join(", ")}` : "Click what they face in the plan"}
        </Action>
      )}
      {args.guide !== "rail" && <Choice label="Heights" value={args.heights ?? "keep"} options={[{ value: "keep", label: "stay as they are" }, { value: "guide", label: "that of the guide" }]} onChange={(heights) => setArrange({ heights })} />}
      {args.guide === "line" && <Choice label="Dragged with" value={hold} options={[{ value: "first", label: "the last one pulled" }, { value: "middle", label: "the middle held" }, { value: "last", label: "the first one pulled" }]} onChange={setHold} />}
      {wrong && !wrong.field && <Sign tone="wrong">{wrong.text}</Sign>}
      {report.map((line) => <Sign key={line} tone="attention">{line}</Sign>)}
      <Box fontSize="12px" minHeight="36px" color={taken ? "verdigris" : "brass"} my="6px" data-part="arrange">{taken ? "Taken. Change a value and take it again, or leave it." : said}</Box>
      <Foot>
        <Action look="main" disabled={Boolean(wrong)} onClick={takeArrange}>
          Arrange {many(ids.length, "thing")} <Keys>Enter</Keys>
        </Action>
        <Action look="quiet" height="24px" onClick={leaveArrange}>{taken ? "Done" : "Esc leaves them where they are"}</Action>
      </Foot>
    </Section>
  );
}
