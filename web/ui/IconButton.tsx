import type { ReactNode } from 'react';
import { run } from './commands/registry.ts';
import { type CommandId, labelOf } from './commands/table.ts';

interface IconButtonProps {
  /** What it runs; its words and key are the button's, where no others are given. */
  command?: CommandId;
  label?: string;
  pressed?: boolean;
  /** Whether what it opens is open. */
  expanded?: boolean;
  disabled?: boolean;
  onClick?: () => void;
  children: ReactNode;
}

/** A square button with a picture; its words are read out and shown when the pointer rests on it. */
export function IconButton({
  command,
  label,
  pressed,
  expanded,
  disabled,
  onClick,
  children,
}: IconButtonProps) {
  const words = command ? labelOf(command, label) : label;
  return (
    <button
      type="button"
      className={`btn btn-ghost btn-xs btn-square ${pressed ? 'bg-[var(--honey-wash)]' : ''}`}
      aria-label={words}
      aria-pressed={pressed}
      aria-expanded={expanded}
      title={words}
      disabled={disabled}
      onClick={onClick ?? (command && (() => run(command)))}
    >
      {children}
    </button>
  );
}
