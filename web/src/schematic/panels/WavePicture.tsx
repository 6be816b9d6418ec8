// A source's course in time, drawn as it will be, with its numbers on it.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import type { Part, WavePreview } from "../../api/types";
import { useExercise } from "../../document/store";

const WIDTH = 240;
const HEIGHT = 64;

export function WavePicture({ part }: { part: Part }) {
  const parameters = useExercise((state) => state.document.parameters);
  const { data, error } = useQuery({
    queryKey: ["waveform", part.kind, part.form, part.values, parameters],
    queryFn: () => ask<WavePreview>(api.POST("/api/waveform", { body: { part, parameters } })),
    placeholderData: (before) => before,
    staleTime: 60_000,
  });
  if (error) return <p className="mt-2 text-[13px] text-fault">{error.message}</p>;
  if (!data) return null;
  if (data.problem) return <p className="mt-2 text-[13px] text-fault">{data.problem}</p>;
  if (!data.values.length) return null;
  const low = Math.min(...data.values, 0);
  const high = Math.max(...data.values, 0);
  const y = (value: number) => HEIGHT - ((value - low) / (high - low || 1)) * HEIGHT;
  const line = data.values.map((v, i) => `${(i / (data.values.length - 1)) * WIDTH},${y(v)}`);
  const spoken = `From ${data.lowest} to ${data.highest}, shown for ${data.stop}${data.period ? `, period ${data.period}` : ""}`;
  return (
    <figure className="mt-3">
      <svg
        role="img"
        aria-label={spoken}
        viewBox={`-2 -4 ${WIDTH + 4} ${HEIGHT + 8}`}
        className="w-full rounded-md border border-hairline bg-paper"
      >
        <line x1={0} x2={WIDTH} y1={y(0)} y2={y(0)} stroke="var(--edge)" strokeWidth={0.7} />
        <polyline
          points={line.join(" ")}
          fill="none"
          stroke="var(--simulated)"
          strokeWidth={1.6}
          strokeLinejoin="round"
        />
      </svg>
      <figcaption className="figure mt-1 flex justify-between text-xs text-soft">
        <span>
          {data.lowest} … {data.highest}
        </span>
        {data.period && <span>T = {data.period}</span>}
        <span>0 … {data.stop}</span>
      </figcaption>
    </figure>
  );
}
