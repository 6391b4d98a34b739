'use client';

import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { Button } from '@/ui/Button';
import { plural, when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { Modal } from '@/ui/Modal';
import { useSelected } from '../shelf/selected.ts';
import { changesBetween } from './ruleWords.ts';
import { useRulebookPast } from './useRulebooks.ts';

interface PastDialogProps {
  id: string;
  /** As it is kept now. */
  book: Rulebook;
  close: () => void;
  /** Has an earlier state said again. */
  take(book: Rulebook): void;
}

/** What a rulebook said earlier, and where it is in use. */
export function PastDialog({ id, book, close, take }: PastDialogProps) {
  const { data, error } = useRulebookPast(id);
  const later = data ? [book, ...data.states.map((state) => state.book)] : [];
  return (
    <Modal title={`History of ${book.title}`} close={close} wide>
      <div className="grid gap-4 p-4 text-[12.5px]">
        {error && <p className="text-error">{error.message}</p>}
        {data && (
          <>
            <section className="grid gap-1" aria-label="In use">
              <h3 className="font-semibold">In use</h3>
              {data.parcels.length + data.folders.length === 0 && (
                <p className="text-[var(--soft)]">
                  No asset bears an edit of it, and no folder of arrivals applies it.
                </p>
              )}
              <ul className="grid gap-0.5">
                {data.folders.map((path) => (
                  <li key={path}>
                    applied to what arrives in <span className="font-mono text-[11.5px]">{path}</span>
                  </li>
                ))}
                {data.parcels.map((parcel) => (
                  <li key={parcel.id}>
                    <Link
                      className="hover:underline"
                      href="/"
                      onClick={() => useSelected.setState({ filter: { parcel: parcel.id } })}
                    >
                      {parcel.name}
                    </Link>
                    <span className="text-[var(--soft)]">, {plural(parcel.assets, 'asset')}</span>
                  </li>
                ))}
              </ul>
            </section>
            <section className="grid gap-1" aria-label="Earlier">
              <h3 className="font-semibold">Earlier</h3>
              {data.states.length === 0 && (
                <p className="text-[var(--soft)]">It was not changed since it was made.</p>
              )}
              <ol className="grid max-h-[46vh] gap-1 overflow-auto">
                {data.states.map((state, i) => (
                  <li
                    key={state.id}
                    className="flex items-center gap-3 rounded-[5px] border border-[var(--line)] px-2.5 py-1.5"
                  >
                    <span className="min-w-0 flex-1">
                      <b>{plural(state.book.rules.length, 'rule')}</b> until {when(state.until)}
                      <span className="block break-words text-[var(--soft)]">
                        then {changesBetween(state.book, later[i])}
                      </span>
                    </span>
                    <Button onClick={() => take(state.book)}>Take this one</Button>
                  </li>
                ))}
              </ol>
            </section>
          </>
        )}
      </div>
    </Modal>
  );
}
