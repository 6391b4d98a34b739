import type { ComponentProps } from 'react';

/** The strip above a sheet: its title at the left, what can be done with it at the right. */
export function Bar({ className = '', ...rest }: ComponentProps<'div'>) {
  return <div className={`navbar min-h-10 gap-2 border-b border-[var(--line)] px-3 py-0 ${className}`} {...rest} />;
}
