import { useEffect, useState } from "react";
import { useShow } from "../../show/document";
import { fetchTimes } from "../../show/looks";
import type { OrderTimes } from "../../show/types";

/** What was asked last: bench and card ask for the same. */
let last: { of: string; times: Promise<OrderTimes> } | null = null;

function askTimes(order: string, rev: number): Promise<OrderTimes> {
  const of = `${order} ${rev}`;
  if (last?.of === of) return last.times;
  const times = fetchTimes(order);
  last = { of, times };
  // What could not be had is asked for again.
  times.catch(() => (last = null));
  return times;
}

/** When the steps of an order come, real heads and all: asked again whenever something of the show has changed. */
export function useTimes(order: string | undefined): OrderTimes {
  const rev = useShow((state) => state.rev);
  const [times, setTimes] = useState<OrderTimes>([]);
  useEffect(() => {
    if (!order) return;
    let current = true;
    void askTimes(order, rev).then((found) => current && setTimes(found), () => undefined);
    return () => {
      current = false;
    };
  }, [order, rev]);
  return times;
}
