// What a fault of the page leaves standing: its own place says so, and everything beside it goes on.
import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import { Button } from "./Button";

/** `what` names the place in the sentence. It is tried again when one of `again` changes. */
export function Guarded({
  what,
  again = [],
  children,
}: {
  what: string;
  again?: unknown[];
  children: ReactNode;
}) {
  return (
    <ErrorBoundary resetKeys={again} fallbackRender={(props) => <Failed what={what} {...props} />}>
      {children}
    </ErrorBoundary>
  );
}

function Failed({ what, error, resetErrorBoundary }: FallbackProps & { what: string }) {
  return (
    <div role="alert" className="flex flex-col items-start gap-3 p-8">
      <h2 className="font-serif text-xl">{what} cannot be shown</h2>
      <p className="max-w-prose text-soft">
        Something went wrong in this part of the page. Your work is safe: undo the last edit, try
        again, or reload the page.
      </p>
      <div className="flex gap-2">
        <Button onClick={() => window.location.reload()}>Reload this page</Button>
        <Button onClick={resetErrorBoundary}>Try again</Button>
      </div>
      <details className="max-w-full text-sm text-soft">
        <summary>For a report</summary>
        <code className="break-words">
          {error instanceof Error ? error.message : String(error)}
        </code>
      </details>
    </div>
  );
}
