// Signing in, on a server that asks who one is: instead of the notebook, or over the work that goes on.
import { type FormEvent, useEffect, useRef, useState } from "react";
import { Button } from "./Button";
import { usePerson } from "./person";
import { Voices } from "./Voices";

export function SignIn({ onDone }: { onDone?: () => void }) {
  const { signIn } = usePerson();
  const [trouble, setTrouble] = useState<string | null>(null);
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    // A panel that opens takes the focus first.
    const frame = requestAnimationFrame(() => form.current?.querySelector("input")?.focus());
    return () => cancelAnimationFrame(frame);
  }, []);
  const submit = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const told = new FormData(event.currentTarget);
    try {
      await signIn(String(told.get("name")), String(told.get("password")));
      onDone?.();
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return (
    <form
      ref={form}
      aria-label="Sign in"
      onSubmit={(event) => void submit(event)}
      className="grid gap-3.5"
    >
      {trouble && (
        <p role="alert" className="rounded-md bg-fault-wash px-3 py-2 text-sm text-fault">
          {trouble}
        </p>
      )}
      <Typed label="Name" name="name" autoComplete="username" />
      <Typed label="Password" name="password" type="password" autoComplete="current-password" />
      <Button type="submit" look="solid">
        Sign in
      </Button>
    </form>
  );
}

function Typed({ label, ...rest }: { label: string } & React.ComponentProps<"input">) {
  return (
    <label className="grid gap-1 text-sm">
      {label}
      <input
        {...rest}
        required
        className="h-9 rounded-md border border-edge bg-paper px-2.5 text-base focus:border-accent focus:outline-2 focus:outline-accent"
      />
    </label>
  );
}

/** What a stranger sees of the whole product. */
export function LoginPage() {
  return (
    <main className="mx-auto mt-[16vh] max-w-[23.5rem] px-4">
      <h1 className="font-serif text-4xl font-medium tracking-tight">Lucid Bench</h1>
      <p className="mt-1 mb-6 text-soft">
        <Voices />.
      </p>
      <SignIn />
    </main>
  );
}
