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
    <span className={`relative inline-flex min-w-0 max-w-full ${className}`} title={children}>
      {/* Read aloud in one piece: parts side by side would be two words. */}
      <span className="sr-only">{children}</span>
      <span className="truncate whitespace-pre" aria-hidden>
        {children.slice(0, -END)}
      </span>
      <span className="shrink-0 whitespace-pre" aria-hidden>
        {children.slice(-END)}
      </span>
    </span>
  );
}
