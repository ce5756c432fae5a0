import type { ReactNode } from "react";

/** What a page says when there is nothing to show, and what to do next. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="rounded border border-dashed border-line px-6 py-12 text-center">
      <p className="font-medium">{title}</p>
      <div className="mt-1 text-muted">{children}</div>
    </div>
  );
}

/** What went wrong, as the service tells it. */
export function Failure({ error }: { error: Error }) {
  return (
    <p role="alert" className="rounded border border-bad/50 bg-panel px-4 py-3 text-bad">
      {error.message}
    </p>
  );
}

/** Says that something is on its way, once that takes long enough to notice. */
export function Loading() {
  return (
    <p role="status" className="animate-pulse px-1 py-6 text-muted">
      Loading…
    </p>
  );
}
