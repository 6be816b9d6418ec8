// Names as a textbook sets them: V_out is a V with out below it.
export interface Piece {
  text: string;
  isLow: boolean;
}

/** A name or formula in pieces, what follows an underscore marked as standing low. */
export function pieces(text: string): Piece[] {
  const found: Piece[] = [];
  let end = 0;
  for (const match of text.matchAll(/([A-Za-zα-ω])_([A-Za-zα-ω0-9.]+(?:_[A-Za-zα-ω0-9.]+)*)/g)) {
    found.push({ text: text.slice(end, match.index + 1), isLow: false });
    found.push({ text: (match[2] as string).replaceAll("_", ", "), isLow: true });
    end = match.index + match[0].length;
  }
  if (end < text.length) found.push({ text: text.slice(end), isLow: false });
  return found;
}

/** In running text. */
export function Named({ text }: { text: string }) {
  return pieces(text).map(({ text, isLow }, k) =>
    // biome-ignore lint/suspicious/noArrayIndexKey: the pieces of one name
    isLow ? <sub key={k}>{text}</sub> : <span key={k}>{text}</span>,
  );
}

/** Inside an SVG text. */
export function NamedSpans({ text, size }: { text: string; size: number }) {
  return pieces(text).map(({ text, isLow }, k, all) => {
    const down = isLow ? size * 0.22 : all[k - 1]?.isLow ? -size * 0.22 : 0;
    return (
      // biome-ignore lint/suspicious/noArrayIndexKey: the pieces of one name
      <tspan key={k} dy={down} fontSize={isLow ? size * 0.75 : size}>
        {text}
      </tspan>
    );
  });
}

/** On a canvas, from `x` on; `font` is that of what stands on the line, `size` in the canvas's pixels. */
export function paintName(
  ctx: CanvasRenderingContext2D,
  text: string,
  x: number,
  y: number,
  family: string,
  size: number,
): void {
  let at = x;
  for (const { text: piece, isLow } of pieces(text)) {
    ctx.font = `${isLow ? size * 0.78 : size}px ${family}`;
    ctx.fillText(piece, at, isLow ? y + size * 0.25 : y);
    at += ctx.measureText(piece).width;
  }
}
