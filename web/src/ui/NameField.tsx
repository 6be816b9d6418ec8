// A field for a name: what is typed is given when the hand rests, Enter is pressed or the field is left.
import { type ComponentProps, useEffect, useRef, useState } from "react";

const REST = 600; // ms

interface Props extends Omit<ComponentProps<"input">, "value" | "onChange"> {
  value: string;
  /** Gives the name. Rejects with what to say where that cannot be. */
  onGive(name: string): Promise<void>;
  onRefused(sentence: string): void;
  /** Whether a name is only given when the field is left: it may be on the way to another. */
  waits?(name: string): boolean;
}

export function NameField({ value, onGive, onRefused, waits, ...rest }: Props) {
  const [text, setText] = useState(value);
  const given = useRef(value); // last, or being given
  const refused = useRef<string | null>(null); // said already
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    if (given.current === value) return;
    given.current = value;
    setText(value);
  }, [value]);

  /** While it is still written in, what cannot be given is left standing. */
  const settle = async (typed: string, isLeft: boolean) => {
    clearTimeout(timer.current);
    const name = typed.trim();
    if (!name || name === given.current || name === refused.current) {
      if (isLeft) setText(given.current);
      return;
    }
    if (!isLeft && waits?.(name)) return;
    const before = given.current;
    given.current = name;
    try {
      await onGive(name);
    } catch (error) {
      given.current = before;
      if (!isLeft) return;
      refused.current = name;
      setText(before);
      onRefused((error as Error).message);
    }
  };
  const leave = useRef(() => {});
  leave.current = () => void settle(text, true);
  // A card that closes takes its fields away before they are left.
  useEffect(() => () => leave.current(), []);
  return (
    <input
      autoComplete="off"
      spellCheck={false}
      {...rest}
      value={text}
      onChange={(event) => {
        const typed = event.target.value;
        setText(typed);
        refused.current = null;
        clearTimeout(timer.current);
        timer.current = setTimeout(() => void settle(typed, false), REST);
      }}
      onBlur={() => leave.current()}
      onKeyDown={(event) => {
        if (event.key === "Enter") leave.current();
        rest.onKeyDown?.(event);
      }}
    />
  );
}
