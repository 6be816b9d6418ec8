import type { ComponentProps, ReactNode } from "react";
import type { Command } from "./commands";
import { Hint } from "./Hint";

type Look = "solid" | "line" | "quiet";

const base =
  "inline-flex items-center justify-center gap-2 rounded-md text-sm font-medium whitespace-nowrap " +
  "transition-colors disabled:opacity-45 disabled:cursor-default";
const looks: Record<Look, string> = {
  solid: "bg-accent text-on-accent hover:brightness-110 h-9 px-3.5",
  line: "border border-hairline bg-raised hover:border-edge h-9 px-3.5",
  quiet: "hover:bg-ruling h-9 px-2.5",
};

interface Props extends ComponentProps<"button"> {
  look?: Look;
}

export function Button({ look = "line", className = "", ...rest }: Props) {
  return <button type="button" className={`${base} ${looks[look]} ${className}`} {...rest} />;
}

interface IconProps extends ComponentProps<"button"> {
  label: string;
  shortcut?: string;
  children: ReactNode;
}

/** A button that is a picture; its label is spoken, and shown with its shortcut on pointing. */
export function IconButton({ label, shortcut, className = "", children, ...rest }: IconProps) {
  return (
    <Hint text={label} shortcut={shortcut}>
      <button
        type="button"
        aria-label={label}
        className={`inline-flex size-9 items-center justify-center rounded-md text-ink hover:bg-ruling disabled:opacity-35 disabled:hover:bg-transparent aria-pressed:bg-accent-wash aria-pressed:text-accent ${className}`}
        {...rest}
      >
        {children}
      </button>
    </Hint>
  );
}

interface CommandProps extends Omit<ComponentProps<"button">, "onClick"> {
  of: Command;
  children: ReactNode;
}

/** A command as a picture. */
export function CommandButton({ of, children, ...rest }: CommandProps) {
  const shortcut = of.keys ? { shortcut: of.keys } : {};
  return (
    <IconButton label={of.name} {...shortcut} onClick={() => of.run()} {...rest}>
      {children}
    </IconButton>
  );
}
