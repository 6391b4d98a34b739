'use client';

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { FileInput } from '@/ui/FileInput';
import { plural, when } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { benchKey } from '../bench/benchQuery.ts';
import { type BenchView, useBench } from '../bench/useBench.ts';
import { useDelivery } from './useDelivery.ts';

/**
 * Newer deliveries of the asset: send one, watch a folder for them, see what each changed, take the newest
 * back.
 */
export function DeliveryDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const client = useQueryClient();
  const { deliver, busy } = useDelivery();
  const input = useRef<HTMLInputElement>(null);
  const takeBack = useMutation({
    mutationFn: () => api(`/api/assets/${view.id}/deliveries`, { method: 'DELETE' }),
    onSuccess: () => client.invalidateQueries({ queryKey: benchKey(view.id) }),
    onError: (error) => toast.error(error.message),
  });
  return (
    <Modal title="Deliveries" close={close} wide>
      <div className="grid gap-4 p-4">
        <div className="flex items-center gap-3">
          <p className="min-w-0 flex-1 text-[12.3px] text-[var(--soft)]">
            Files with the same names take the place of the old ones, and the edit log is replayed. Nothing is
            lost: the newest delivery can be taken back.
          </p>
          <Button main disabled={busy} onClick={() => input.current?.click()}>
            Send newer files
          </Button>
          <FileInput
            ref={input}
            data-testid="delivery-files"
            pick={(files) => void deliver(files.map((file) => ({ path: file.name, file })))}
          />
        </div>
        <WatchForm />
        <ol className="grid max-h-[46vh] gap-2 overflow-auto">
          {view.deliveries.map((delivery, i) => (
            <li
              key={delivery.id}
              className="rounded-[5px] border border-[var(--line)] bg-base-100 p-3"
              data-testid="delivery"
            >
              <div className="flex items-center gap-2">
                <b className="min-w-0 flex-1 truncate">{delivery.summary.from}</b>
                <span className="text-[11.5px] text-[var(--soft)]">{when(delivery.at)}</span>
                {i === 0 && (
                  <Button disabled={takeBack.isPending} onClick={() => takeBack.mutate()}>
                    Take back
                  </Button>
                )}
              </div>
              <Summary summary={delivery.summary} />
            </li>
          ))}
          {view.deliveries.length === 0 && (
            <li className="py-6 text-center text-[var(--soft)]">
              The asset stands as it was first delivered.
            </li>
          )}
        </ol>
      </div>
    </Modal>
  );
}

type DeliverySummary = BenchView['deliveries'][number]['summary'];

function Summary({ summary }: { summary: DeliverySummary }) {
  const lists: [string, readonly string[]][] = [
    ['replaced', summary.replaced],
    ['new', summary.added],
    ['new materials', summary.materialsAdded],
    ['materials gone', summary.materialsRemoved],
    ['no longer applies', summary.skipped],
    ['new findings', summary.findingsAdded],
    ['findings gone', summary.findingsGone],
  ];
  return (
    <dl
      className="mt-1 grid gap-x-3 gap-y-0.5 text-[12px]"
      style={{ gridTemplateColumns: '120px minmax(0, 1fr)' }}
    >
      {lists
        .filter(([, items]) => items.length > 0)
        .map(([title, items]) => (
          <div key={title} className="contents">
            <dt className="text-[var(--soft)]">
              {title} ({items.length})
            </dt>
            <dd className="break-words">
              {items.slice(0, 6).join(', ') + (items.length > 6 ? ` and ${items.length - 6} more` : '')}
            </dd>
          </div>
        ))}
      <dt className="text-[var(--soft)]">model</dt>
      <dd>
        {summary.modelChanged ? 'changed' : 'the same'}; {plural(summary.unchanged, 'file')} as before
      </dd>
    </dl>
  );
}

function WatchForm() {
  const { view } = useBench();
  const client = useQueryClient();
  const [path, setPath] = useState(view.watched?.path ?? '');
  const change = useMutation({
    mutationFn: (required: string | null) =>
      api(
        `/api/assets/${view.id}/watch`,
        required === null ? { method: 'DELETE' } : { method: 'PUT', body: { path: required } },
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: benchKey(view.id) }),
    onError: (error) => toast.error(error.message),
  });
  return (
    <form
      className="grid gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate(path);
      }}
    >
      <label className="grid gap-1 text-[12.3px]">
        <span className="font-semibold">Watch a folder on the server</span>
        <span className="flex gap-2">
          <Field
            className="min-w-0 flex-1 font-mono text-[11.5px]"
            aria-label="Folder to watch"
            placeholder="/projects/lantern/export"
            value={path}
            onChange={(event) => setPath(event.target.value)}
          />
          <Button
            type="submit"
            disabled={change.isPending || path.trim() === '' || path === view.watched?.path}
          >
            Watch
          </Button>
          {view.watched && (
            <Button disabled={change.isPending} onClick={() => change.mutate(null)}>
              Stop
            </Button>
          )}
        </span>
      </label>
      <span className="text-[11.5px] text-[var(--soft)]">
        {view.watched
          ? view.watched.message || 'watching: a re-export there comes in by itself'
          : 'A re-export into the folder then comes in by itself.'}
      </span>
    </form>
  );
}
