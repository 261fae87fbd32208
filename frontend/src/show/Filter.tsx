import { chakra } from "@chakra-ui/react";
import { Action } from "../kit/controls";
import { many } from "./format";
import { select } from "./selection";

/** Narrow a bench to what is sought, and select all of it. */
export function Filter({ sought, onSeek, found, hint }: { sought: string; onSeek: (text: string) => void; found: readonly string[]; hint: string }) {
  return (
    <>
      <chakra.input
        type="search" aria-label="Filter" placeholder={hint} title="Words that all must fit; 61-68 for numbers; -word for what it is not" value={sought} onChange={(event) => onSeek(event.target.value)}
        width="150px" height="24px" px="8px" fontSize="12px" bg="ink1" border="1px solid" borderColor={sought ? "brass" : "line"} borderRadius="4px" color="text"
      />
      {sought.trim() && (
        <Action height="24px" disabled={!found.length} onClick={() => select([...found])}>
          Select {many(found.length, "thing")}
        </Action>
      )}
    </>
  );
}
