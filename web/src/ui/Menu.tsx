import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

const panel =
  "z-40 min-w-48 rounded-lg border border-hairline bg-raised p-1 text-sm shadow-card outline-none";
const row =
  "flex w-full cursor-pointer items-center gap-2.5 rounded-md px-2.5 py-1.5 outline-none select-none " +
  "data-highlighted:bg-accent-wash data-disabled:opacity-40";

export function Menu({ trigger, children }: { trigger: ReactNode; children: ReactNode }) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={6} className={panel}>
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function MenuItem({ onSelect, children }: { onSelect: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item className={row} onSelect={onSelect}>
      {children}
    </DropdownMenu.Item>
  );
}

export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 h-px bg-hairline" />;
}
