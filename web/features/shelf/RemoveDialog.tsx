import { useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { Hanging } from '@/server/services/removal';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { bytes, plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import type { ShelfEntry } from './shelf.ts';

/** Asks before an asset is removed, with all that goes with it; the notice after it takes it back. */
export function RemoveDialog({ entry, close }: { entry: ShelfEntry; close: () => void }) {
  const client = useQueryClient();
  const bringBack = useBringBack(entry);
  const { data } = useQuery({
    queryKey: ['removal', entry.id],
    queryFn: () => api<Hanging>(`/api/assets/${entry.id}/removal`),
    staleTime: 0,
  });
  const remove = async () => {
    close();
    try {
      await api(`/api/assets/${entry.id}`, { method: 'DELETE' });
      toast(`${entry.name} was removed.`, {
        action: { label: 'Undo', onClick: () => void bringBack() },
        duration: 12_000,
      });
      await client.invalidateQueries({ queryKey: ['shelf'] });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Modal title={`Remove ${entry.name}?`} close={close}>
      <div className="grid gap-3 p-4 text-[13px]">
        {data ? (
          <ul className="list-disc pl-4" aria-label="What goes with it">
            {linesOf(data).map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        ) : (
          <p className="text-[var(--soft)]">Looking at what hangs on it</p>
        )}
        <p className="text-[var(--soft)]">
          It can be brought back, with all of this, until the server is swept.
        </p>
        <div className="flex justify-end">
          <Button main data-first-focus onClick={() => void remove()}>
            Remove
          </Button>
        </div>
      </div>
    </Modal>
  );
}

function linesOf({ edits, handoffs, deliveries, watches, files, bytes: size, siblings }: Hanging): string[] {
  const lines = [
    `${plural(edits, 'edit')} in its log, ${plural(handoffs, 'handoff')}, ${plural(deliveries, 'newer delivery', 'newer deliveries')}`,
  ];
  if (watches !== null) lines.push(`It watches ${watches}, and will not any more`);
  if (siblings.length === 0) lines.push(`${plural(files, 'file')} of its parcel, ${bytes(size)}`);
  else
    lines.push(
      `The parcel stays for ${siblings.slice(0, 3).join(', ')}${siblings.length > 3 ? ` and ${siblings.length - 3} more` : ''}`,
    );
  return lines;
}

/** Puts a removed asset back on the shelf. */
export function useBringBack(entry: ShelfEntry): () => Promise<void> {
  const client = useQueryClient();
  return async () => {
    try {
      await api(`/api/assets/${entry.id}/removal`, { method: 'DELETE' });
      toast(`${entry.name} is back on the shelf.`);
      await client.invalidateQueries({ queryKey: ['shelf'] });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
}
