// A formula typeset. Built node by node, as the page's content policy forbids inline styles in markup.
import katex from "katex";
import { useLayoutEffect, useRef } from "react";

interface Props {
  latex: string;
  className?: string;
}

export function Formula({ latex, className = "" }: Props) {
  const place = useRef<HTMLSpanElement>(null);
  useLayoutEffect(() => {
    if (!place.current) return;
    katex.render(`\\displaystyle ${latex}`, place.current, {
      throwOnError: false,
      strict: false, // the micro sign is set as text
      output: "htmlAndMathml",
    });
  }, [latex]);
  return <span ref={place} className={`inline-block ${className}`} />;
}
