/** State by shape and word as well as colour: circle fine, triangle doubtful, square broken, ring empty. */
export type MarkKind = 'fine' | 'doubtful' | 'broken' | 'empty';

const WORDS: Record<MarkKind, string> = {
  fine: 'fine',
  doubtful: 'doubtful',
  broken: 'broken',
  empty: 'empty',
};

/** The mark itself, with its word for those who do not see it. */
export function Mark({ kind, size = 10 }: { kind: MarkKind; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 10 10"
      role="img"
      aria-label={WORDS[kind]}
      className="shrink-0"
    >
      {kind === 'fine' && <circle cx="5" cy="5" r="4.6" className="fill-success" />}
      {kind === 'doubtful' && <path d="M5 0.4 10 9.4H0z" className="fill-accent" />}
      {kind === 'broken' && <rect x="0.5" y="0.5" width="9" height="9" rx="1" className="fill-error" />}
      {kind === 'empty' && <circle cx="5" cy="5" r="4" fill="none" stroke="var(--soft)" strokeWidth="1.6" />}
    </svg>
  );
}

/** The mark of a finding's severity. */
export function markOfSeverity(severity: 'error' | 'warning' | 'note'): MarkKind {
  if (severity === 'error') return 'broken';
  return severity === 'warning' ? 'doubtful' : 'empty';
}
