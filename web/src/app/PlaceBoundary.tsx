// A fault of one place leaves the rail and the other places as they are, and says what happened.
import type { ReactNode } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';
import { useLocation } from 'react-router';

export function PlaceBoundary({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return (
    <ErrorBoundary FallbackComponent={Fault} resetKeys={[pathname]}>
      {children}
    </ErrorBoundary>
  );
}

function Fault({ error, resetErrorBoundary }: FallbackProps) {
  const message = error instanceof Error ? error.message : String(error);
  return (
    <>
      <header className="sentence">This place has met a fault.</header>
      <main className="place empty" role="alert">
        <h1>{message}</h1>
        <p>What was recorded is kept. Show the place again; if the fault comes back, another place still works.</p>
        <button type="button" className="go" onClick={resetErrorBoundary}>
          Show it again
        </button>
      </main>
    </>
  );
}

/** What was asked for could not be read. */
export function Unreadable({ what, error, onAgain }: { what: string; error: Error; onAgain: () => void }) {
  return (
    <>
      <header className="sentence">{what} cannot be shown.</header>
      <main className="place empty" role="alert">
        <h1>{error.message}</h1>
        <p>{remedyOf(error)}</p>
        <button type="button" className="go" onClick={onAgain}>
          Try again
        </button>
      </main>
    </>
  );
}
function remedyOf(error: Error): string {
  const remedy = (error as { remedy?: unknown }).remedy;
  return typeof remedy === 'string' && remedy ? remedy : 'Try again, or choose another under Projects.';
}
