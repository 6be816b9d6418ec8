import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  text: string;
  shortcut?: string | undefined;
  children: ReactNode;
}

export function Hint({ text, shortcut, children }: Props) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-50 flex items-center gap-2 rounded-md bg-ink px-2 py-1 text-xs text-paper shadow-card"
        >
          {text}
          {shortcut && <Keys>{shortcut}</Keys>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

export function Keys({ children }: { children: ReactNode }) {
  return (
    <kbd className="rounded border border-current/40 px-1 font-sans text-[11px] leading-4 opacity-80">
      {children}
    </kbd>
  );
}
