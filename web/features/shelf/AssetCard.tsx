import { blobUrl } from '@/ui/api';
import { Mark } from '@/ui/Mark';
import type { ShelfEntry } from './shelf.ts';

/** How an asset looks, as far as that was drawn. */
export function Picture({ entry }: { entry: Pick<ShelfEntry, 'name' | 'thumbnail'> }) {
  return (
    <span
      className="grid w-[146px] shrink-0 place-items-center"
      style={{ background: 'linear-gradient(var(--sky-top), var(--sky-mid) 55%, var(--sky-low))' }}
    >
      {entry.thumbnail ? (
        <img
          src={blobUrl(entry.thumbnail)}
          alt={`${entry.name}, drawn`}
          className="h-[120px] w-[144px] object-contain"
        />
      ) : (
        <span className="text-[11.5px] text-[var(--soft)]">no geometry</span>
      )}
    </span>
  );
}

/** What is open, by how bad it is. */
export function Tallies({ severities: { error, warning, note } }: Pick<ShelfEntry, 'severities'>) {
  return (
    <span className="flex items-center gap-2.5 text-[12px] font-semibold">
      {error > 0 && <Tally kind="broken" value={error} word="broken" />}
      {warning > 0 && <Tally kind="doubtful" value={warning} word="doubtful" />}
      {note > 0 && <Tally kind="empty" value={note} word={note === 1 ? 'note' : 'notes'} />}
      {error + warning + note === 0 && <Tally kind="fine" value={null} word="nothing open" />}
    </span>
  );
}

function Tally({
  kind,
  value,
  word,
}: {
  kind: 'broken' | 'doubtful' | 'empty' | 'fine';
  value: number | null;
  word: string;
}) {
  return (
    <span className="flex items-center gap-1">
      <Mark kind={kind} /> {value} {word}
    </span>
  );
}
