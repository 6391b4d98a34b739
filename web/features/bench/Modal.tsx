'use client';

import { type ReactNode, useEffect, useRef } from 'react';

/** A modal dialog that closes with Escape or a click beside it. */
export function Modal({ title, close, children, wide = false }: { title: string; close: () => void; children: ReactNode; wide?: boolean }) {
  const element = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    element.current?.showModal();
  }, []);
  return (
    <dialog ref={element} className="modal" aria-label={title} onClose={close}>
      <div className={`modal-box border border-[var(--line)] p-0 ${wide ? 'max-w-3xl' : 'max-w-xl'}`}>
        <div className="bar">
          <h2 className="text-[14px] font-bold">{title}</h2>
          <span className="flex-1" />
          <button type="button" className="act" onClick={close}>
            Close
          </button>
        </div>
        {children}
      </div>
      <form method="dialog" className="modal-backdrop">
        <button type="submit">close</button>
      </form>
    </dialog>
  );
}
