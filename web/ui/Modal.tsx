'use client';

import { type ReactNode, useEffect, useRef } from 'react';
import { Button } from '@/ui/Button';
import { Bar } from './Bar.tsx';

/**
 * A modal dialog that closes with Escape or a click beside it. The part marked with `data-first-focus` has
 * the keys at first.
 */
export function Modal({
  title,
  close,
  children,
  wide = false,
}: {
  title: string;
  close: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  const element = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    element.current?.showModal();
    element.current?.querySelector<HTMLElement>('[data-first-focus]')?.focus();
  }, []);
  return (
    <dialog ref={element} className="modal" aria-label={title} onClose={close}>
      <div className={`modal-box border border-[var(--line)] p-0 ${wide ? 'max-w-3xl' : 'max-w-xl'}`}>
        <Bar>
          <h2 className="text-[14px] font-bold">{title}</h2>
          <span className="flex-1" />
          <Button onClick={close}>Close</Button>
        </Bar>
        {children}
      </div>
      <form method="dialog" className="modal-backdrop">
        <button type="submit">close</button>
      </form>
    </dialog>
  );
}
