'use client';

import { DESTINATIONS, findDestination } from '@kinkajou/core/destinations/destinations';
import { differenceOf, isSame } from '@kinkajou/core/handoff/differences';
import type { Receipt } from '@kinkajou/core/handoff/receipt';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { Download, PackageCheck, X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { previewPlan } from '@/server/services/handoffs';
import { api } from '@/ui/api';
import { useChoices } from '@/ui/choices';
import { bytes, when } from '@/ui/format';
import { Mark, type MarkKind } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { StepSheet } from '../steps/StepSheet.tsx';
import { ReceiptSheet } from './ReceiptSheet.tsx';
import { type HandoffEntry, useHandoffs } from './useHandoffs.ts';

const VARIANT_TITLES: Record<string, string> = { glb: 'GLB', gltf: 'glTF + maps' };

type Plan = Awaited<ReturnType<typeof previewPlan>>;

/** The plan, the handoffs made so far, and their receipts. */
export function HandoffStep() {
  const { view } = useBench();
  const { destination: chosen, variants, set } = useChoices();
  const destination = findDestination(chosen) ?? DESTINATIONS[0];
  const variant = destination.variants.find((one) => one === variants[destination.id]) ?? destination.variants[0];
  const cursor = view.log.filter((entry) => !entry.undone).length;
  const plan = useQuery({
    queryKey: ['plan', view.id, destination.id, cursor, view.images.length],
    queryFn: () => api<Plan>(`/api/assets/${view.id}/plan?to=${destination.id}`),
    placeholderData: keepPreviousData,
  });
  const handoffs = useHandoffs(view.id);
  const [shown, setShown] = useState<string | null>(null);
  const start = useMutation({
    mutationFn: () => api<HandoffEntry>(`/api/assets/${view.id}/handoffs`, { method: 'POST', body: { destination: destination.id, variant } }),
    onSuccess: (made) => {
      setShown(made.id);
      void handoffs.refetch();
    },
    onError: (error) => toast.error(error.message),
  });
  const list = handoffs.data ?? [];
  const current = list.find((handoff) => handoff.id === shown) ?? list[0];
  const earlier =
    current && list.slice(list.indexOf(current) + 1).find((one) => one.receipt && one.destination === current.destination && one.variant === current.variant);
  const running = list.some((handoff) => handoff.state === 'queued' || handoff.state === 'running');
  return (
    <StepSheet
      title="Handoff"
      actions={
        <>
          <select className="chip" aria-label="Destination" value={destination.id} onChange={(event) => set({ destination: event.target.value })}>
            {DESTINATIONS.map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </select>
          {destination.variants.length > 1 && (
            <fieldset className="seg" aria-label="File layout">
              {destination.variants.map((one) => (
                <button key={one} type="button" aria-pressed={variant === one} onClick={() => set({ variants: { ...variants, [destination.id]: one } })}>
                  {VARIANT_TITLES[one] ?? one.toUpperCase()}
                </button>
              ))}
            </fieldset>
          )}
          <button type="button" className="act main flex items-center gap-1.5" disabled={start.isPending || running} onClick={() => start.mutate()}>
            <PackageCheck size={14} /> Make the package
          </button>
        </>
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-4 p-4">
        {plan.isError && <p className="text-error">{plan.error.message}</p>}
        {plan.data && <PlanSheet plan={plan.data} />}
        <section>
          <h3 className="mb-1.5 font-semibold">Handoffs of this asset</h3>
          {list.length === 0 && <p className="text-[var(--soft)]">None yet. The package is a zip with the model, its maps and a receipt.</p>}
          <ul className="grid gap-1.5" aria-label="Handoffs">
            {list.map((handoff) => (
              <HandoffRow key={handoff.id} handoff={handoff} current={handoff.id === current?.id} show={() => setShown(handoff.id)} />
            ))}
          </ul>
        </section>
        {current?.receipt && earlier?.receipt && <Difference before={earlier.receipt} after={current.receipt} />}
        {current?.receipt && <ReceiptSheet receipt={current.receipt} />}
      </div>
    </StepSheet>
  );
}

/** What is different from the last package for the same destination. */
function Difference({ before, after }: { before: Receipt; after: Receipt }) {
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

function PlanSheet({ plan }: { plan: Plan }) {
  return (
    <section aria-label="Plan">
      <p className="mb-2 text-[var(--soft)]">{plan.destination.summary}.</p>
      {plan.errors > 0 && (
        <p className="mb-2 flex items-center gap-2">
          <Mark kind="broken" /> {plan.errors} broken {plan.errors === 1 ? 'finding is' : 'findings are'} open; the package can be made all the same, and the
          receipt will say so.
        </p>
      )}
      {plan.preparations.length > 0 && <p className="mb-2">First, in memory: {plan.preparations.join('; ')}. What is made of it is listed when it is done.</p>}
      {plan.losses.length > 0 && (
        <ul className="mb-2 grid gap-0.5">
          {plan.losses.map((loss) => (
            <li key={loss} className="flex items-baseline gap-2">
              <Mark kind="doubtful" /> <span>{loss}</span>
            </li>
          ))}
        </ul>
      )}
      <table className="sheet-table rounded border border-[var(--line)]">
        <thead>
          <tr>
            <th>Map that will be written</th>
            <th>Pixels</th>
            <th>Made from</th>
          </tr>
        </thead>
        <tbody>
          {plan.images.map((image) => (
            <tr key={image.file}>
              <td className="align-top font-mono text-[11.5px] whitespace-nowrap">{image.file}</td>
              <td className="align-top whitespace-nowrap">
                {image.width} × {image.height}
              </td>
              <td className="text-[12px]">
                {image.copied ? (
                  <span>copied as it is: {image.components[0].text.replace(/^\w+ from /, '').replace(/, \w+$/, '')}</span>
                ) : (
                  image.components.map((component) => (
                    <span key={component.component} className="block break-words">
                      <b className="font-mono text-[11px]">{component.component}</b> {component.text}
                    </span>
                  ))
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {plan.images.length === 0 && <p className="mt-2 text-[var(--soft)]">No images will be written; the materials are plain values.</p>}
    </section>
  );
}

const STATE_MARK: Record<HandoffEntry['state'], MarkKind> = { queued: 'empty', running: 'empty', done: 'fine', failed: 'broken', cancelled: 'empty' };

function HandoffRow({ handoff, current, show }: { handoff: HandoffEntry; current: boolean; show: () => void }) {
  const busy = handoff.state === 'queued' || handoff.state === 'running';
  const cancel = () => void api(`/api/handoffs/${handoff.id}/cancel`, { method: 'POST' }).catch((error: Error) => toast.error(error.message));
  const verdict = handoff.receipt?.verdict ?? handoff.state;
  return (
    <li className={`rounded-md border bg-base-100 px-2.5 py-1.5 ${current ? 'border-accent' : 'border-[var(--line)]'}`} data-handoff={handoff.state}>
      <div className="flex items-center gap-2">
        <Mark kind={verdict === 'with remarks' ? 'doubtful' : STATE_MARK[handoff.state]} />
        <button type="button" className="min-w-0 cursor-pointer truncate text-left font-semibold" onClick={show}>
          {handoff.fileName}
        </button>
        <span className="whitespace-nowrap text-[var(--soft)]">{busy ? handoff.doing : verdict}</span>
        <span className="flex-1" />
        <span className="text-[11.5px] whitespace-nowrap text-[var(--soft)]">
          {handoff.zipSize ? `${bytes(handoff.zipSize)}, ` : ''}
          {when(handoff.createdAt)}
        </span>
        {handoff.zip && handoff.state === 'done' && (
          <a className="act main flex items-center gap-1" href={`/api/handoffs/${handoff.id}/package`} download>
            <Download size={13} /> Download
          </a>
        )}
        {busy && (
          <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Cancel the handoff" onClick={cancel}>
            <X size={14} />
          </button>
        )}
      </div>
      {busy && <progress className="progress progress-accent mt-1 h-1.5 w-full" aria-label="Making the package" value={handoff.progress} max={1} />}
      {handoff.fault && <p className="mt-1 text-[12px] break-words text-error">{handoff.fault.message}</p>}
    </li>
  );
}
