import { Field, Section } from "../../kit/controls";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useChosenFixtures } from "../../show/fixtures";
import { runsOf } from "../../show/slots";

/** Where each further break of a mode lies that has several: as named here, else right after the one before it. */
export function Breaks() {
  const chosen = useChosenFixtures();
  const types = useShow((state) => state.types);
  const [first] = chosen;
  const modeOf = (one: (typeof chosen)[number]) => types[one.body.type]?.modes.find((mode) => mode.name === one.body.mode);
  const mode = first && modeOf(first);
  if (!first || !mode || mode.breaks.length < 2 || chosen.some((one) => modeOf(one) !== mode)) return null;
  const ids = chosen.map((one) => one.id);
  const runs = runsOf(first.body, mode);
  return (
    <Section title="Further breaks">
      {mode.breaks.slice(1).map(({ number, slots }) => {
        const named = (first.body.breaks ?? []).find(([one]) => one === number) as [number, number, number] | undefined;
        const run = runs.find((one) => one.number === number);
        return (
          <Field
            key={`${first.id} ${number}`}
            label={`Break ${number}, ${slots} slots`}
            value={named ? `${named[1]}.${String(named[2]).padStart(3, "0")}` : ""}
            hint={run ? `follows, ${run.universe}.${String(run.address).padStart(3, "0")}` : "no address"}
            onCommit={(text) => edit("place break", { ids, number, start: text.trim() || null }, { quiet: true })}
          />
        );
      })}
    </Section>
  );
}
