// What an exercise says of itself.
import { Panel } from "../ui/Panel";
import { useExercise } from "./store";

const FIELDS = [
  { key: "title", label: "Title", longest: 120 },
  { key: "author", label: "Author", longest: 120 },
  { key: "group", label: "Group", longest: 120 },
  { key: "number", label: "Exercise number", longest: 40 },
] as const;
const frame =
  "mt-1 block w-full rounded-md border border-edge bg-paper px-2.5 py-1.5 text-[15px] text-ink focus:border-accent focus:outline-2 focus:outline-accent";

export function Details({ open, onClose }: { open: boolean; onClose(): void }) {
  const document = useExercise((state) => state.document);
  const write = (key: (typeof FIELDS)[number]["key"] | "purpose", text: string) =>
    useExercise.getState().edit((draft) => {
      draft[key] = text;
    }, key);
  return (
    <Panel open={open} title="This exercise" onClose={onClose}>
      <div className="space-y-3">
        {FIELDS.map(({ key, label, longest }) => (
          <label key={key} className="block text-xs font-medium text-soft">
            {label}
            <input
              value={document[key]}
              maxLength={longest}
              onChange={(event) => write(key, event.target.value)}
              className={frame}
            />
          </label>
        ))}
        <label className="block text-xs font-medium text-soft">
          Purpose
          <textarea
            value={document.purpose}
            maxLength={600}
            rows={4}
            onChange={(event) => write("purpose", event.target.value)}
            className={frame}
          />
        </label>
      </div>
    </Panel>
  );
}
