// A panel beside the work: it does not lock the page.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { IconButton } from "./Button";

interface Props {
  open: boolean;
  title: string;
  onClose(): void;
  children: ReactNode;
}

export function Panel({ open, title, onClose, children }: Props) {
  return (
    <Dialog.Root open={open} modal={false} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          onOpenAutoFocus={(event) => {
            event.preventDefault(); // the panel itself, not its first button and that one's hint
            (event.currentTarget as HTMLElement).focus();
          }}
          className="fixed top-14 right-3 z-30 flex max-h-[calc(100%-5rem)] w-96 flex-col rounded-xl border border-hairline bg-raised shadow-card outline-none"
        >
          <div className="flex items-center border-b border-hairline py-1.5 pr-2 pl-4">
            <Dialog.Title className="grow font-serif text-lg">{title}</Dialog.Title>
            <IconButton label="Close" shortcut="Esc" onClick={onClose}>
              <X size={17} />
            </IconButton>
          </div>
          <div className="min-h-0 overflow-y-auto p-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
