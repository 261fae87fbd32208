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
export const STEP_VIEWS: Record<Step, { name: string; says: string; Card: ComponentType; Bench: ComponentType }> = {
  site: { name: "Site", says: "The venue, set, structures and audience", Card: SiteCard, Bench: SiteBench },
  hang: { name: "Hang", says: "Fixtures on their rails", Card: HangCard, Bench: HangBench },
  aim: { name: "Aim", says: "Where each fixture points, its shape and colour", Card: AimCard, Bench: AimBench },
  patch: { name: "Patch", says: "Universe and address of each fixture", Card: PatchCard, Bench: PatchBench },
  signal: { name: "Signal", says: "What consoles send, and who drives what", Card: SignalCard, Bench: SignalBench },
  looks: { name: "Looks", says: "Pictures kept, in the order of the show", Card: LooksCard, Bench: LooksBench },
  review: { name: "Review", says: "Looks seen from seats and viewpoints", Card: ReviewCard, Bench: ReviewBench },
  papers: { name: "Papers", says: "Lists and drawings for the crew", Card: PapersCard, Bench: PapersBench },
};
