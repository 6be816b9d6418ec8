// What a way of measuring is told: each setting with what is proposed, and places pointed at on the drawing.
import { useQuery } from "@tanstack/react-query";
import { Crosshair } from "lucide-react";
import { useEffect } from "react";
import { api, ask } from "../api/client";
import type { Analysis, PlanLook, WayLook } from "../api/types";
import { setSetting, useBench, type WayKey } from "../bench/bench";
import { useEditorStore } from "../schematic/editor/tools";
import { IconButton } from "../ui/Button";

type Setting = Analysis["settings"][number];

const field =
  "rounded-md border border-edge bg-paper px-2 py-1 text-sm text-ink placeholder:text-soft " +
  "focus:border-accent focus:outline-2 focus:outline-accent aria-invalid:border-fault h-[31px] mt-1";

export function useWays(): WayLook[] | undefined {
  return useQuery({
    queryKey: ["ways"],
    queryFn: () => ask<WayLook[]>(api.GET("/api/ways")),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
}

const NAMED = 5; // settings that are folded away and named

interface Props {
  way: WayKey;
  settings: Setting[];
  typed: Record<string, string>;
  plan: PlanLook | null;
}

export function Settings({ way, settings, typed, plan }: Props) {
  const because = plan?.settings.filter((look) => look.because && !look.text) ?? [];
  const reads = typed.function ?? "volts";
  const asked = settings.filter((s) => s.key !== "against" || reads.startsWith("volts"));
  const aside = asked.filter((setting) => setting.aside);
  const isFound = aside.some(({ key }) => {
    const look = plan?.settings.find((other) => other.key === key);
    return typed[key] || look?.problem;
  });
  const fields = (some: Setting[]) => (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
      {some.map((setting) => (
        <Given key={setting.key} way={way} setting={setting} typed={typed} plan={plan} />
      ))}
    </div>
  );
  return (
    <div>
      {fields(asked.filter((setting) => !setting.aside))}
      {because.length > 0 && (
        <p className="mt-1.5 text-xs text-soft">
          Proposed:{" "}
          {[...new Set(because.map((look) => look.because))]
            .slice(0, 3)
            .map((reason) => {
              const of = because.filter((look) => look.because === reason);
              return `${of.map((look) => labelOf(settings, look.key)).join(" and ")}, ${reason}`;
            })
            .join("; ")}
          .
        </p>
      )}
      {aside.length > 0 && (
        <details className="mt-1.5" open={isFound || undefined}>
          <summary className="cursor-pointer text-sm text-soft">
            More:{" "}
            {aside
              .slice(0, NAMED)
              .map(({ label }) => label.toLowerCase())
              .join(", ")}
            {aside.length > NAMED && " …"}
          </summary>
          <div className="mt-1.5">{fields(aside)}</div>
        </details>
      )}
    </div>
  );
}

interface GivenProps {
  way: WayKey;
  setting: Setting;
  typed: Record<string, string>;
  plan: PlanLook | null;
}

/** One setting: typed, chosen, or pointed at. */
function Given({ way, setting, typed, plan }: GivenProps) {
  const look = plan?.settings.find((other) => other.key === setting.key);
  const text = typed[setting.key] ?? "";
  const id = `${way} ${setting.key}`;
  const problem = look?.text === text ? look.problem : null;
  return (
    <div title={setting.meaning} className="text-xs text-soft">
      <label htmlFor={id} className="block font-medium">
        {setting.label}
      </label>
      {setting.reads === "quantity" ? (
        <input
          id={id}
          value={text}
          placeholder={look?.proposed}
          maxLength={60}
          spellCheck={false}
          autoComplete="off"
          aria-invalid={Boolean(problem)}
          onChange={(event) => setSetting(way, setting.key, event.target.value)}
          className={`${field} figure w-24`}
        />
      ) : (
        <span className="flex items-end gap-1">
          <select
            id={id}
            value={text || look?.proposed || ""}
            onChange={(event) => setSetting(way, setting.key, event.target.value)}
            className={`${field} max-w-44`}
          >
            {(setting.optional || !look?.proposed) && !look?.choices.some(([value]) => !value) && (
              <option value="">nowhere</option>
            )}
            {look?.choices.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
          {(setting.reads === "place" || setting.reads === "part") && (
            <Point way={way} setting={setting} />
          )}
        </span>
      )}
    </div>
  );
}

const labelOf = (settings: Setting[], key: string) =>
  settings.find((setting) => setting.key === key)?.label.toLowerCase() ?? key;

/** Lets the next press on the drawing say where. */
function Point({ way, setting }: { way: WayKey; setting: Setting }) {
  const hint = `${setting.label}: press a wire, a pin or a part on the drawing. Esc ends it.`;
  const isArmed = useEditorStore((state) => state.picking?.hint === hint);
  const set = useEditorStore((state) => state.set);
  useEffect(() => () => set({ picking: null }), [set]);
  const pick = (place: { node: string } | { part: string }) => {
    const isPart = setting.reads === "part";
    if (isPart && !("part" in place)) return;
    setSetting(way, setting.key, "part" in place ? place.part : place.node);
    if (useBench.getState().way === way) set({ picking: null });
  };
  return (
    <IconButton
      label={`Point at ${setting.label.toLowerCase()} on the drawing`}
      aria-pressed={isArmed}
      onClick={() => set({ picking: isArmed ? null : { hint, pick } })}
      className="size-[31px]! aria-pressed:bg-accent-wash aria-pressed:text-accent"
    >
      <Crosshair size={16} />
    </IconButton>
  );
}
