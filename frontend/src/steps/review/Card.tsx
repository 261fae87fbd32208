import { Readiness } from "../../show/CardHead";
import { useReview } from "../../show/review";
import { BookCard } from "./BookCard";
import { CompareCard } from "./CompareCard";
import { HouseCard } from "./HouseCard";
import { LightCard } from "./LightCard";
import { NotesCard } from "./NotesCard";
import { Saving } from "./Saving";
import { ShareCard } from "./Share";

const CARDS = { house: HouseCard, light: LightCard, compare: CompareCard, notes: NotesCard, book: BookCard, share: ShareCard } as const;

export function ReviewCard() {
  const view = useReview((state) => state.view);
  const Card = CARDS[view];
  return (
    <>
      <Card />
      <Readiness step="review" />
      {(view === "house" || view === "compare") && <Saving />}
    </>
  );
}
