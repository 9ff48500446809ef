/** Names up to this long are never cut. */
const SHORT = 16;

/** Letters at the end that stay: there names of one kind differ. */
const END = 7;

/** A name that is cut in its middle where there is no room for it, and whole on hover. */
export function MiddleCut({ children, className = '' }: { children: string; className?: string }) {
  if (children.length <= SHORT) {
    return (
      <span className={`truncate ${className}`} title={children}>
        {children}
      </span>
    );
  }
  return (
    <span className={`inline-flex min-w-0 max-w-full ${className}`} title={children}>
      <span className="truncate whitespace-pre">{children.slice(0, -END)}</span>
      <span className="shrink-0 whitespace-pre">{children.slice(-END)}</span>
    </span>
  );
}
