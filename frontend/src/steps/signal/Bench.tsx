import { useState } from "react";
import { Action, BenchHead } from "../../kit/controls";
import { useLink } from "../../show/connection";
import { useConsoles } from "../../show/consoles";
import { useMonitor } from "../../show/monitor";
import { useSimulated } from "../../show/simulated";
import { usePatchedUniverses } from "../../show/slots";
import { Levels } from "./Levels";
import { Check } from "./Check";
import { Mapping } from "./Mapping";
import { Offer } from "./Offer";
import { Simulated } from "./Simulated";

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
  const view = useConsoles((state) => state.view);
  const consoles = useConsoles((state) => state.report?.consoles);
  const simulated = useSimulated((state) => state.report?.consoles);
  const offered = view?.of === "offer" && consoles?.find((one) => one.key === view.key);
  const running = view?.of === "simulated" && simulated?.find((one) => one.key === view.key);
  if (offered) return <Offer key={offered.key} one={offered} ours={view?.of === "offer" && view.ours} />;
  if (running) return <Simulated key={running.key} one={running} />;
  if (view?.of === "check") return <Check />;
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
