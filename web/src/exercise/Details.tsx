// What an exercise says of itself.

import { useExercise } from "../document/store";
import { Field, LongField } from "../ui/Field";
import { Panel } from "../ui/Panel";

const FIELDS = [
  { key: "title", label: "Title", longest: 120 },
  { key: "author", label: "Author", longest: 120 },
  { key: "group", label: "Group", longest: 120 },
  { key: "number", label: "Exercise number", longest: 40 },
] as const;

export function Details({ open, onClose }: { open: boolean; onClose(): void }) {
  const document = useExercise((state) => state.document);
  const write = (key: (typeof FIELDS)[number]["key"] | "purpose", text: string) =>
    useExercise.getState().edit((draft) => {
      draft[key] = text;
    }, key);
  const end = () => useExercise.getState().endGroup();
  return (
    <Panel open={open} title="This exercise" onClose={onClose}>
      <div className="space-y-3">
        {FIELDS.map(({ key, label, longest }) => (
          <Field
            key={key}
            label={label}
            value={document[key]}
            maxLength={longest}
            onChange={(event) => write(key, event.target.value)}
            onBlur={end}
          />
        ))}
        <LongField
          label="Purpose"
          value={document.purpose}
          maxLength={600}
          rows={5}
          onChange={(event) => write("purpose", event.target.value)}
          onBlur={end}
        />
      </div>
    </Panel>
  );
}
