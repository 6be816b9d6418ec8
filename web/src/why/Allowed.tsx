// Which causes gaps of this exercise may be explained by: a teacher restricts the list for a class.
import type { ExplanationLook } from "../api/types";
import { useExercise } from "../document/store";

export function Allowed({ told }: { told: ExplanationLook["kinds"] }) {
  const keys = useExercise((state) => state.document.causes);
  const listed = told.map((each) => ({
    ...each,
    allowed: !keys.length || keys.includes(each.key),
  }));
  const chosen = listed.filter(({ allowed }) => allowed);
  const isAll = chosen.length === told.length;
  const allow = (kept: string[]) =>
    useExercise.getState().edit((document) => {
      document.causes = kept.length === told.length ? [] : kept;
    });
  return (
    <details>
      <summary className="cursor-pointer text-soft">
        Causes that count: {isAll ? "all" : `${chosen.length} of ${told.length}`}
      </summary>
      <ul aria-label="Causes that count" className="mt-1 columns-2 gap-x-6 sm:columns-3">
        {listed.map(({ key, label, allowed }) => (
          <li key={key}>
            <label className="flex items-baseline gap-1.5">
              <input
                type="checkbox"
                checked={allowed}
                disabled={allowed && chosen.length === 1}
                onChange={(event) =>
                  allow(
                    listed
                      .filter((each) => (each.key === key ? event.target.checked : each.allowed))
                      .map((each) => each.key),
                  )
                }
                className="accent-accent"
              />
              {label}
            </label>
          </li>
        ))}
      </ul>
      {!isAll && (
        <button
          type="button"
          onClick={() => allow(told.map(({ key }) => key))}
          className="mt-1 underline underline-offset-2"
        >
          All of them
        </button>
      )}
    </details>
  );
}
