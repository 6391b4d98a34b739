'use client';

import { Button } from '@/ui/Button';
import { plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { type ConflictAnswer, useConflicts } from './conflicts.ts';

const ANSWERS: { answer: ConflictAnswer; title: string; does: string }[] = [
  { answer: 'reuse', title: 'Reuse', does: 'keep those that are here; the new files are not sent' },
  {
    answer: 'replace',
    title: 'Replace',
    does: 'every slot reads the new files; the old ones stay in the parcel, and undo brings them back',
  },
  { answer: 'both', title: 'Keep both', does: 'add the new files beside the old ones; nothing is linked' },
];
const SHOWN = 8;

/** Asks what to do with images whose names are in the asset already, once for all. */
export function ConflictDialog() {
  const pending = useConflicts((state) => state.pending);
  if (!pending) return null;
  const { names, answer } = pending;
  return (
    <Modal
      title={`${plural(names.length, 'image')} with ${names.length === 1 ? 'this name is' : 'these names are'} here already`}
      close={() => answer(null)}
    >
      <div className="grid gap-3 p-4">
        <ul className="font-mono text-[11.5px]">
          {names.slice(0, SHOWN).map((name) => (
            <li key={name} className="truncate">
              {name}
            </li>
          ))}
          {names.length > SHOWN && <li className="text-[var(--soft)]">and {names.length - SHOWN} more</li>}
        </ul>
        {ANSWERS.map(({ answer: choice, title, does }) => (
          <Button key={choice} className="grid gap-0.5 py-2 text-left" onClick={() => answer(choice)}>
            <b>{title}</b>
            <span className="text-[11.5px] font-normal text-[var(--soft)]">{does}</span>
          </Button>
        ))}
      </div>
    </Modal>
  );
}
