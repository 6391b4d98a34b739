'use client';

import { Modal } from '../Modal.tsx';
import { COMMAND_IDS, capsOf, PLACES, type Place, wordsOf } from './table.ts';

/** Every key of the page by the place where it holds. */
export function KeyList({ close }: { close: () => void }) {
  return (
    <Modal title="Keys" close={close} wide>
      <div className="max-h-[70vh] columns-2 gap-x-8 overflow-auto p-4">
        {(Object.keys(PLACES) as Place[]).map((place) => (
          <section key={place} className="mb-3 break-inside-avoid-column">
            <h3 className="mb-1 text-[11.5px] font-semibold text-[var(--soft)]">{PLACES[place]}</h3>
            <dl className="grid gap-1">
              {COMMAND_IDS.filter((id) => wordsOf(id).place === place && wordsOf(id).keys.length > 0).map(
                (id) => (
                  <div key={id} className="flex items-center gap-2.5">
                    <dt className="flex w-28 shrink-0 justify-end gap-1">
                      {shownKeys(wordsOf(id)).map((press) => (
                        <KeyCaps key={press} press={press} />
                      ))}
                    </dt>
                    <dd className="text-[12.3px]">{wordsOf(id).title}</dd>
                  </div>
                ),
              )}
            </dl>
          </section>
        ))}
      </div>
    </Modal>
  );
}

/** All arrows of a movement; of other commands the first key alone. */
function shownKeys({ keys, byKeyOnly }: ReturnType<typeof wordsOf>): readonly string[] {
  if (!byKeyOnly) return keys.slice(0, 1);
  return keys[0].startsWith('shift') ? keys.slice(0, 1) : keys;
}

/** The keys of a command, drawn as caps. */
export function KeyCaps({ press }: { press: string | undefined }) {
  if (press === undefined) return null;
  return (
    <span className="flex gap-1">
      {capsOf(press).map((cap) => (
        <kbd key={cap} className="kbd kbd-xs font-mono">
          {cap}
        </kbd>
      ))}
    </span>
  );
}
