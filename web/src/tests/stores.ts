// All files of tests share one page: each test begins with what its stores begin with.
import { beforeEach } from "vitest";
import { useExercise } from "../document/store";
import { usePanels } from "../exercise/panels";
import { useDragged } from "../plots/dragged";
import { useChosenRun } from "../plots/runsOf";
import { useSeries } from "../predict/useDesign";
import { useFigures } from "../schematic/editor/figures";
import { useEditorStore } from "../schematic/editor/tools";
import { useMessages } from "../ui/Toasts";
import { usePreferences } from "../ui/theme";
import { useWhy } from "../why/why";

interface Store {
  getInitialState: () => object;
  setState: (state: never, replace: true) => void;
}

const STORES: Store[] = [
  useChosenRun,
  useDragged,
  useExercise,
  useFigures,
  useEditorStore,
  useMessages,
  usePanels,
  usePreferences,
  useSeries,
  useWhy,
];

beforeEach(() => {
  for (const store of STORES) store.setState(store.getInitialState() as never, true);
});
