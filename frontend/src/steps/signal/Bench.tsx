import { useState } from "react";
import { Action, BenchHead } from "../../kit/controls";
import { useLink } from "../../show/connection";
import { useMonitor } from "../../show/monitor";
import { usePatchedUniverses } from "../../show/slots";
import { Levels } from "./Levels";
import { Mapping } from "./Mapping";

export function SignalBench() {
  const signal = useLink((state) => state.signal);
  const patched = usePatchedUniverses();
  const [asked, setAsked] = useState<number | null>(null);
  const levels = useMonitor((state) => state.shown);
  const show = (shown: boolean) => useMonitor.setState({ shown });
  const heard = signal?.universes.map((one) => one.universe) ?? [];
  const all = [...new Set([...patched, ...heard])].sort((a, b) => a - b);
  const universe = asked ?? heard[0] ?? (all[0] as number);
  const see = (one: number) => {
    setAsked(one);
    show(true);
  };
  if (levels) return <Levels universe={universe} all={all} onUniverse={setAsked} onMapping={() => show(false)} />;
  const live = signal?.universes.filter((one) => one.state === "live").length ?? 0;
  return (
    <>
      <BenchHead title="What is heard, and where it lands" note={`${live} of ${all.length} universes live`}>
        <Action look="quiet" height="22px" onClick={() => see(universe)}>
          Levels
        </Action>
      </BenchHead>
      <Mapping onUniverse={see} />
    </>
  );
}
