// Which panel beside the work is open.
import { create } from "zustand";

export type PanelName = "details" | "revisions" | "commands";

export const usePanels = create<{ open: PanelName | null }>()(() => ({ open: null }));

export const openPanel = (open: PanelName | null): void => usePanels.setState({ open });
