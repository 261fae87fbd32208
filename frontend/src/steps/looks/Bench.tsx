import { chakra } from "@chakra-ui/react";
import { Action, BenchHead, Empty } from "../../kit/controls";
import { settings, thing, things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { many } from "../../show/format";
import { looksInOrder, orderShown, useLooks } from "../../show/looks";
import { useSelection } from "../../show/selection";
import { Strip } from "./Strip";
import { Tiles } from "./Tiles";
import { Transport } from "./Transport";
import { usePictures } from "../../show/usePictures";
import { useTimes } from "./useTimes";

/** What is done with several looks at once: those that are selected, by their numbers. */
function Several() {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const ids = looksInOrder(objects).map((look) => look.id).filter((id) => selection.includes(id));
  if (ids.length < 2) return null;
  const shown = (work: ReturnType<typeof edit>) => void work.then((made) => useLooks.setState({ look: made.select?.[0] ?? "" })).catch(() => undefined);
  return (
    <>
      <Action height="24px" title="One look of them that hangs on none of them" onClick={() => shown(edit("merge looks", { looks: ids }, { select: true }))}>Merge {ids.length}</Action>
      <Action height="24px" title="A look that is made of them, the later ones over the earlier" onClick={() => shown(edit("make of parts", { parts: ids }, { select: true }))}>Layer {ids.length}</Action>
      <Action height="24px" title="Whole numbers from the first one's on" onClick={() => void edit("renumber looks", { looks: ids, start: String(Math.floor(thing(objects, ids[0], "look")?.body.number ?? 1)) }).catch(() => undefined)}>Renumber {ids.length}</Action>
      <Action height="24px" onClick={() => void edit("add order", { looks: ids }).then((made) => useLooks.setState({ view: "run", order: made.select?.[0] ?? "" })).catch(() => undefined)}>Order of {ids.length}</Action>
    </>
  );
}

export function LooksBench() {
  const objects = useShow((state) => state.objects);
  const { view, order: chosen } = useLooks();
  const show = settings(objects);
  const looks = things(objects, "look");
  const orders = things(objects, "order");
  const order = orderShown(objects, chosen, show.running);
  const times = useTimes(order?.id);
  usePictures();
  const strip = view === "run" && order !== undefined;
  const add = () => void edit("add order", {}).then((made) => useLooks.setState({ view: "run", order: made.select?.[0] ?? "" })).catch(() => undefined);
  return (
    <>
      <BenchHead title={strip ? "Running order" : "Looks"} note={strip ? undefined : `${looks.length} kept`}>
        {strip && (
          <>
            <chakra.select aria-label="Which running order" bg="transparent" color="text" fontSize="12px" maxWidth="180px" value={order.id} onChange={(event) => useLooks.setState({ order: event.target.value, steps: [] })} css={{ "& option": { background: "{colors.ink2}" } }}>
              {orders.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.body.name}, {many(one.body.steps?.length ?? 0, "step")}
                </option>
              ))}
            </chakra.select>
            <Transport order={order} />
          </>
        )}
        {looks.length > 0 && !orders.length && <Action height="24px" onClick={add}>Make a running order of {many(looks.length, "look")}</Action>}
        {!strip && <Several />}
        {orders.length > 0 && (
          <Action look="quiet" height="22px" onClick={() => useLooks.setState({ view: strip ? "looks" : "run" })}>
            {strip ? "All looks" : "Over time"}
          </Action>
        )}
      </BenchHead>
      {!looks.length ? (
        <Empty>Looks are kept here. Set up a picture with the console or by hand, then keep it with the card.</Empty>
      ) : strip ? (
        order.body.steps?.length ? <Strip order={order} times={times} /> : <Empty>{order.body.name} is empty. Choose a look under All looks, then put it in with the card.</Empty>
      ) : (
        <Tiles />
      )}
    </>
  );
}
