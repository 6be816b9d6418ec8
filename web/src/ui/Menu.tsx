import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";
import type { Command } from "./commands";
import { Keys } from "./Hint";

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

interface AtProps {
  label: string;
  /** px of the page. */
  at: readonly [number, number];
  onClose(): void;
  children: ReactNode;
}

/** A menu that is open where something was pressed. */
export function MenuAt({ label, at, onClose, children }: AtProps) {
  return (
    <DropdownMenu.Root open modal={false} onOpenChange={(open) => !open && onClose()}>
      <DropdownMenu.Trigger asChild>
        <span aria-hidden="true" className="fixed size-0" style={{ left: at[0], top: at[1] }} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          aria-label={label}
          align="start"
          sideOffset={2}
          collisionPadding={8}
          className={panel}
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface ItemProps {
  onSelect: () => void;
  shortcut?: string;
  disabled?: boolean;
  children: ReactNode;
}

export function MenuItem({ onSelect, shortcut, disabled, children }: ItemProps) {
  return (
    <DropdownMenu.Item className={row} disabled={disabled ?? false} onSelect={onSelect}>
      {children}
      {shortcut && (
        <span className="ml-auto pl-4 text-soft">
          <Keys>{shortcut}</Keys>
        </span>
      )}
    </DropdownMenu.Item>
  );
}

/** A command in a menu; `run` where it is done otherwise at the place that was pressed. */
export function CommandItem({ of, run = of.run }: { of: Command; run?: () => void }) {
  return (
    <MenuItem onSelect={run} {...(of.keys ? { shortcut: of.keys } : {})}>
      {of.name}
    </MenuItem>
  );
}

export function MenuLine() {
  return <DropdownMenu.Separator className="my-1 h-px bg-hairline" />;
}
