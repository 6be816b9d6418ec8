import { memo } from "react";
import type { Kind, Part } from "../../api/types";
import { usePreferences } from "../../ui/theme";
import { placed } from "../model/geometry";
import { strokeAt } from "./strokes";

interface Props {
  kind: Kind | undefined;
  part: Pick<Part, "at" | "rotation" | "mirror">;
  /** With its letters too. */
  texts?: boolean;
}

/** The strokes of a part where it stands; its signs stay upright. */
export const PartSymbol = memo(function PartSymbol({ kind, part, texts = true }: Props) {
  const standard = usePreferences((preferences) => preferences.symbols);
  if (!kind)
    return (
      <path className="stroke" d={strokeAt("M-2 -2H2V2H-2Z", part)} strokeDasharray="0.5 0.4" />
    );
  const drawing = kind[standard];
  return (
    <>
      <path className="stroke" d={drawing.strokes.map((path) => strokeAt(path, part)).join("")} />
      {drawing.filled.length > 0 && (
        <path className="solid" d={drawing.filled.map((path) => strokeAt(path, part)).join("")} />
      )}
      {drawing.signs
        .filter((sign) => isStroke(sign.text))
        .map((sign) => {
          const [x, y] = placed(part, sign.x, sign.y);
          const upright = sign.text === "+" ? `M${x} ${y - 0.4}v0.8` : "";
          return (
            <path
              key={`${sign.text} ${sign.x} ${sign.y}`}
              className="stroke"
              d={`M${x - 0.4} ${y}h0.8${upright}`}
            />
          );
        })}
      {texts && <PartTexts kind={kind} part={part} />}
    </>
  );
});

const isStroke = (text: string) => text === "+" || text === "\u2212";

/** The letters of a symbol, upright: a meter's V, a block's name and ports. */
export const PartTexts = memo(function PartTexts({ kind, part }: Omit<Props, "texts">) {
  const standard = usePreferences((preferences) => preferences.symbols);
  return kind?.[standard].signs
    .filter((sign) => !isStroke(sign.text))
    .map((sign) => {
      const [x, y] = placed(part, sign.x, sign.y);
      return (
        <text
          key={`${sign.text} ${sign.x} ${sign.y}`}
          className="sign"
          x={x}
          y={y + 0.42}
          textAnchor="middle"
          fontSize={1.25}
        >
          {sign.text}
        </text>
      );
    });
});
