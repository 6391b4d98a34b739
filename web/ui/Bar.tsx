import type { ComponentProps } from 'react';

/** The strip above a sheet: its title at the left, what can be done with it at the right. */
export function Bar({ className = '', ...rest }: ComponentProps<'div'>) {
  // A gap of its own stands in place of the usual one, not beside it.
  const gap = className.includes('gap-') ? '' : 'gap-2';
  return (
    <div
      className={`navbar min-h-10 border-b border-[var(--line)] px-3 py-0 ${gap} ${className}`}
      {...rest}
    />
  );
}
