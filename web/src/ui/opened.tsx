import { type ComponentType, createElement, lazy, type ReactNode, Suspense } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { WaitingSheet } from "./WaitingSheet";

/**
 * A page or part of the application that is loaded when it is first shown. What breaks in it is told in its
 * place, with a way to go on; the rest stays usable.
 * `meanwhile` stands there until it has come.
 */
export function opened<P extends object>(
  load: () => Promise<ComponentType<P>>,
  meanwhile: ReactNode = <WaitingSheet error={null} />,
): ComponentType<P> {
  const Part = lazy(async () => ({ default: await load() }));
  // biome-ignore lint/correctness/noComponentHookFactories: called once for each page, where modules are read.
  return function Opened(props: P) {
    return (
      <ErrorBoundary FallbackComponent={Broken}>
        <Suspense fallback={meanwhile}>{createElement(Part, props)}</Suspense>
      </ErrorBoundary>
    );
  };
}

function Broken({ error, resetErrorBoundary }: { error: unknown; resetErrorBoundary: () => void }) {
  return (
    <main className="sheet" id="sheet">
      <div className="note bad" role="alert">
        <p className="flush">
          This page broke. What was saved is safe, and what you typed is kept on this device where it was not
          saved yet.
        </p>
        <p className="soft">{error instanceof Error ? error.message : "Nothing more is known."}</p>
        <button type="button" className="linklike" onClick={resetErrorBoundary}>
          Try again
        </button>{" "}
        <button type="button" className="linklike" onClick={() => window.location.reload()}>
          Reload the page
        </button>
      </div>
    </main>
  );
}
