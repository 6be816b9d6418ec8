// Preferences kept in this browser: light or dark, which standard the symbols follow, how the notebook lies.
import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { paths } from "../api/schema";

export type Theme = "light" | "dark";
export type Order = NonNullable<
  NonNullable<paths["/api/exercises"]["get"]["parameters"]["query"]>["order"]
>;
export type SymbolStandard = "iec" | "ieee";

interface Preferences {
  theme: Theme;
  symbols: SymbolStandard;
  /** Share of the width the left page takes. */
  seam: number;
  /** Of the notebook. */
  order: Order;
  set(change: Partial<Omit<Preferences, "set">>): void;
}

const prefersDark = () => window.matchMedia("(prefers-color-scheme: dark)").matches;

export const usePreferences = create<Preferences>()(
  persist(
    (set) => ({
      theme: prefersDark() ? "dark" : "light",
      symbols: "iec",
      seam: 0.56,
      order: "newest",
      set: (change) => set(change),
    }),
    { name: "lucid-bench.preferences" },
  ),
);

export function applyTheme(): void {
  const apply = ({ theme }: Preferences) => {
    document.documentElement.dataset.theme = theme;
  };
  apply(usePreferences.getState());
  usePreferences.subscribe(apply);
}
