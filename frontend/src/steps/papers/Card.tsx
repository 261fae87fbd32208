import { Box } from "@chakra-ui/react";
import { openExchange } from "../../exchange/state";
import { Action, Section, Sign } from "../../kit/controls";
import { Light } from "../../kit/Light";
import { Readiness } from "../../show/CardHead";
import { things, useShow } from "../../show/document";
import { many } from "../../show/format";
import { LISTS, sheetShown, usePapers } from "../../show/papers";
import { select } from "../../show/selection";
import type { Thing } from "../../show/types";
import { Adding } from "./Adding";
import { Issue } from "./Issue";
import { ListCard } from "./ListCard";
import { NewSheet } from "./NewSheet";
import { PickedCard } from "./PickedCard";
import { Saving } from "./Saving";
import { SheetFields } from "./SheetFields";

export function PapersCard() {
  const objects = useShow((state) => state.objects);
  const { view, sheet: chosen, list } = usePapers();
  const sheet = sheetShown(objects, chosen);
  return (
    <Light flex="1 0 auto" bg="ink2">
      {view === "lists" ? (
        <>
          <Head title={LISTS.find((one) => one.value === list)?.label ?? ""} note="As it will be printed" />
          <ListCard key={list} name={list} />
        </>
      ) : sheet ? (
        <SheetCard sheet={sheet} />
      ) : (
        <>
          <Head title="Papers" note="Drawings and lists for the crew" />
          <NewSheet first />
        </>
      )}
      <Readiness step="papers" />
      <Section title="To other programs">
        <Action width="100%" onClick={openExchange}>Scenes in and out</Action>
        <Box color="dim" fontSize="12px" mt="6px">MVR for consoles and drawing offices, the geometry as GLB, fixtures from a list.</Box>
      </Section>
    </Light>
  );
}

function Head({ title, note }: { title: string; note: string }) {
  return (
    <Section>
      <Box as="h2" fontSize="15px" fontWeight={600}>{title}</Box>
      <Box color="dim" fontSize="12px">{note}</Box>
    </Section>
  );
}

function SheetCard({ sheet }: { sheet: Thing<"sheet"> }) {
  const objects = useShow((state) => state.objects);
  const { picked, drawn } = usePapers();
  const picture = drawn[sheet.id];
  const scales = [...new Set(picture?.views.map((one) => one.scale_text))].join(", ");
  const views = many(sheet.body.views?.length ?? 0, "view");
  return (
    <>
      <Head title={`${sheet.body.number ?? ""} ${sheet.body.name}`.trim()} note={[sheet.body.paper ?? "A1", views, scales].filter(Boolean).join(", ")} />
      {picked ? <PickedCard key={`${sheet.id}/${picked.sort}/${picked.view}/${picked.key}`} sheet={sheet} picked={picked} /> : (
        <>
          <Saving sheet={sheet} />
          <Adding sheet={sheet} />
          <SheetFields key={sheet.id} sheet={sheet} />
        </>
      )}
      {picture && picture.findings.length > 0 && (
        <Section title="On this sheet">
          {picture.findings.map((one) => (
            <Sign key={one.text} tone={one.wrong ? "wrong" : "attention"} onClick={() => select(one.where.filter((id) => id !== sheet.id && objects[id]))}>{one.text}</Sign>
          ))}
        </Section>
      )}
      {!picked && (
        <>
          <Issue count={things(objects, "issue").length} />
          <NewSheet />
        </>
      )}
    </>
  );
}
