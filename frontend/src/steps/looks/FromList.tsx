import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Action, FileField, Section, Sign } from "../../kit/controls";
import { many } from "../../show/format";
import { takeLooks } from "../../show/looks";
import { notify } from "../../show/messages";
import type { LooksTaken } from "../../show/types";

const SHOWN = 4;

/** Looks from a CSV list, as it was saved from Papers: what it comes to is told before it is taken in. */
export function FromList() {
  const [open, setOpen] = useState(false);
  const [found, setFound] = useState<{ file: File; comes: LooksTaken } | null>(null);
  const [wrong, setWrong] = useState("");
  const look = async (file: File) => {
    setWrong("");
    setFound(null);
    try {
      setFound({ file, comes: await takeLooks(file, false) });
    } catch (refusal) {
      setWrong(refusal instanceof Error ? refusal.message : String(refusal));
    }
  };
  const away = () => {
    setFound(null);
    setWrong("");
    setOpen(false);
  };
  const take = async () => {
    if (!found) return;
    try {
      notify((await takeLooks(found.file, true)).sentence);
      away();
    } catch (refusal) {
      setWrong(refusal instanceof Error ? refusal.message : String(refusal));
    }
  };
  if (!open) {
    return (
      <Section>
        <Action look="quiet" height="24px" aria-expanded={false} onClick={() => setOpen(true)}>Looks from a list (CSV)</Action>
      </Section>
    );
  }
  return (
    <Section title="Looks from a list">
      <FileField label="A CSV list of looks" accept=".csv,text/csv" onFile={(file) => void look(file)} />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      {found && (
        <>
          <Box fontSize="12px">{found.comes.sentence}.</Box>
          {found.comes.left_out.slice(0, SHOWN).map((line) => <Sign key={line} tone="attention">{line}</Sign>)}
          {found.comes.left_out.length > SHOWN && <Box fontSize="12px" color="dim">{found.comes.left_out.length - SHOWN} more rows are left out.</Box>}
          <Action mt="4px" onClick={() => void take()}>Take {many(found.comes.looks, "look")} in</Action>
        </>
      )}
      <Action look="quiet" height="22px" mt="4px" onClick={away}>Not now</Action>
    </Section>
  );
}
