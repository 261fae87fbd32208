import { useState } from "react";
import { Input } from "../kit/controls";
import type { Vec3 } from "../stage/data";
import { settings, useShow } from "./document";
import { placeOfText, placeText } from "./format";

/** A place typed as one text; it follows what is dragged on the stage, and what is being typed stays as it was typed. */
export function PlaceInput({ label, value, onChange }: { label: string; value: Vec3; onChange: (place: Vec3) => void }) {
  const system = useShow((state) => settings(state.objects).system);
  const [typed, setTyped] = useState<{ text: string; place: Vec3 | null; of: string } | null>(null);
  const now = placeText(value, system);
  // Dragged since: what was typed is of no account any more.
  const current = typed && typed.of === now ? typed : null;
  return (
    <Input
      label={label} value={current?.text ?? now} wrong={current && !current.place ? "Type three lengths: how far stage left, upstage and up, such as -4, 0, 6 or SR 13', DS 0, 20'." : null}
      onChange={(text) => {
        const place = placeOfText(text, system);
        setTyped({ text, place, of: place ? placeText(place, system) : now });
        if (place) onChange(place);
      }}
    />
  );
}
