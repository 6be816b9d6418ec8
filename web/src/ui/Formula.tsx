// A formula typeset. Built node by node, as the page's content policy forbids inline styles in markup.
import katex from "katex";
import { useLayoutEffect, useRef } from "react";

interface Props {
  latex: string;
  className?: string;
  display?: boolean;
}

export function Formula({ latex, className = "", display = false }: Props) {
  const place = useRef<HTMLSpanElement>(null);
  useLayoutEffect(() => {
    if (!place.current) return;
    katex.render(latex, place.current, {
      throwOnError: false,
      displayMode: false,
      output: "htmlAndMathml",
    });
  }, [latex]);
  return <span ref={place} className={`${display ? "block" : "inline-block"} ${className}`} />;
}
