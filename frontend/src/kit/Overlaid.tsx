import { Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** A panel over the work; Escape or a click beside it puts it away, and the focus goes back. */
export function Overlaid({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  return (
    <Dialog.Root open onOpenChange={(to) => !to.open && onClose()} size="md">
      <Portal>
        <Dialog.Backdrop bg="{colors.ink0/60}" />
        <Dialog.Positioner pt="60px">
          <Dialog.Content aria-label={label} bg="ink2" color="text" border="1px solid" borderColor="line" borderRadius="6px" maxHeight="70vh" overflow="auto" my="0">
            {children}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
