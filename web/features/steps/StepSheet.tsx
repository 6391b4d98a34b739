import type { ReactNode } from 'react';
import { Bar } from '@/ui/Bar';

/** Frame of a step: its title, a word beside it, and a scrolling body. */
export function StepSheet({
  title,
  note,
  actions,
  children,
}: {
  title: string;
  note?: string;
  actions?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="grid h-full" style={{ gridTemplateRows: 'auto minmax(0, 1fr)' }}>
      {/* What does not fit beside the title stands below it. */}
      <Bar className="flex-wrap gap-2 py-1.5">
        <h2 className="text-[14px] font-bold">{title}</h2>
        {note && <span className="truncate text-[var(--soft)]">{note}</span>}
        <span className="flex-1" />
        {actions}
      </Bar>
      <div className="min-h-0 overflow-auto">{children}</div>
    </div>
  );
}

/** A name with what is known of it. */
export function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex gap-2 text-[12.3px]">
      <dt className="w-28 shrink-0 text-[var(--soft)]">{name}</dt>
      <dd className="min-w-0 break-words">{children}</dd>
    </div>
  );
}
