import { Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { notify } from "../show/messages";
import { openLibrary } from "./state";

/** A file that is dragged over the window may be dropped anywhere on it. */
export function Drop() {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const files = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const drag = (event: DragEvent) => {
      if (!files(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const drop = (event: DragEvent) => {
      if (!files(event)) return;
      event.preventDefault();
      setOver(false);
      const file = event.dataTransfer?.files[0];
      if (!file) return;
      if (file.name.toLowerCase().endsWith(".gdtf")) openLibrary(file);
      else notify(`${file.name} is no GDTF file: nothing was done with it.`, "attention");
    };
    window.addEventListener("dragover", drag);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", drag);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  if (!over) return null;
  return (
    <Flex position="fixed" inset="0" zIndex={30} align="center" justify="center" bg="ink0/70" pointerEvents="none" color="brass" fontSize="15px" border="2px solid" borderColor="brass">
      Drop the GDTF file: it is looked at first
    </Flex>
  );
}
