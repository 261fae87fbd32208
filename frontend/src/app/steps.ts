import type { ComponentType } from "react";
import type { Step } from "../show/types";
import { AimBench } from "../steps/aim/Bench";
import { AimCard } from "../steps/aim/Card";
import { HangBench } from "../steps/hang/Bench";
import { HangCard } from "../steps/hang/Card";
import { LooksBench } from "../steps/looks/Bench";
import { LooksCard } from "../steps/looks/Card";
import { PapersBench } from "../steps/papers/Bench";
import { PapersCard } from "../steps/papers/Card";
import { PatchBench } from "../steps/patch/Bench";
import { PatchCard } from "../steps/patch/Card";
import { ReviewBench } from "../steps/review/Bench";
import { ReviewCard } from "../steps/review/Card";
import { SignalBench } from "../steps/signal/Bench";
import { SignalCard } from "../steps/signal/Card";
import { SiteBench } from "../steps/site/Bench";
import { SiteCard } from "../steps/site/Card";

/** Each step's own card and bench. */
export const STEP_VIEWS: Record<Step, { name: string; Card: ComponentType; Bench: ComponentType }> = {
  site: { name: "Site", Card: SiteCard, Bench: SiteBench },
  hang: { name: "Hang", Card: HangCard, Bench: HangBench },
  aim: { name: "Aim", Card: AimCard, Bench: AimBench },
  patch: { name: "Patch", Card: PatchCard, Bench: PatchBench },
  signal: { name: "Signal", Card: SignalCard, Bench: SignalBench },
  looks: { name: "Looks", Card: LooksCard, Bench: LooksBench },
  review: { name: "Review", Card: ReviewCard, Bench: ReviewBench },
  papers: { name: "Papers", Card: PapersCard, Bench: PapersBench },
};
