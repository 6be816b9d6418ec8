import type { ComponentProps } from "react";

/** A small rounded button for an offer: a correction, a mend, a nearby value. */
export function Pill({ className = "", ...rest }: ComponentProps<"button">) {
  return (
    <button
      type="button"
      className={`shrink-0 rounded-full border border-edge bg-raised px-3 py-0.5 text-[13px] font-medium text-ink hover:border-accent hover:bg-accent-wash ${className}`}
      {...rest}
    />
  );
}
