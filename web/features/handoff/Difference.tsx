import { differenceOf, isSame } from '@kinkajou/core/handoff/tell/differences';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';

/** What is different from the last package for the same destination. */
export function Difference({ before, after }: { before: Receipt; after: Receipt }) {
  const difference = differenceOf(before, after);
  const lines = [
    ...difference.edits.map((text) => `since then: ${text}`),
    ...difference.changed.map((path) => `changed: ${path}`),
    ...difference.added.map((path) => `new: ${path}`),
    ...difference.removed.map((path) => `no longer there: ${path}`),
    ...difference.lossesGone.map((loss) => `no longer left behind: ${loss}`),
    ...difference.lossesNew.map((loss) => `now left behind: ${loss}`),
  ];
  return (
    <section aria-label="Difference from last time">
      <h3 className="mb-1 font-semibold">Difference from last time</h3>
      {isSame(difference) ? (
        <p className="text-[var(--soft)]">None: the same files, byte for byte.</p>
      ) : (
        <ul className="list-disc pl-4 text-[12.3px]">
          {lines.map((line) => (
            <li key={line} className="break-words">
              {line}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
