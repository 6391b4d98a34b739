'use client';

import type { Destination } from '@kinkajou/core/destinations/profile';
import type { HandoffChoices } from '@kinkajou/core/destinations/resolveChoices';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { PackageCheck } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { HandoffRequest, PlanView } from '@/server/services/handoffs';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { Link } from '@/ui/Link';
import { Segments } from '@/ui/Segments';
import { useBench } from '../bench/useBench.ts';
import { useDestinations } from '../destinations/useDestinations.ts';
import { StepSheet } from '../steps/StepSheet.tsx';
import { stageOfView } from '../viewport/stageOfView.ts';
import { AlsoTo, ChoicesRow, DestinationSelect } from './DestinationBar.tsx';
import { Difference } from './Difference.tsx';
import { HandoffRow } from './HandoffRow.tsx';
import { PlanSheet } from './PlanSheet.tsx';
import { ReceiptSheet } from './ReceiptSheet.tsx';
import { type HandoffEntry, useHandoffs } from './useHandoffs.ts';

const SHEETS = [
  { id: 'plan', title: 'Plan' },
  { id: 'receipt', title: 'Receipt' },
  { id: 'difference', title: 'Since last time' },
] as const;
type SheetName = (typeof SHEETS)[number]['id'];

/** The plan, the handoffs made so far, and their receipts. */
export function HandoffStep() {
  const typed = useDestinations();
  const { destination: chosen } = useChoices();
  if (typed.isError) return <p className="p-8 text-center text-error">{typed.error.message}</p>;
  if (!typed.data)
    return <p className="p-8 text-center text-[var(--soft)]">asking for the destinations ...</p>;
  const current = (typed.data.find(({ profile }) => profile.id === chosen) ?? typed.data[0]).profile;
  return <HandoffSheet destinations={typed.data} current={current} />;
}

function HandoffSheet({
  destinations,
  current,
}: {
  destinations: NonNullable<ReturnType<typeof useDestinations>['data']>;
  current: Destination;
}) {
  const { view } = useBench();
  const choices = useChoices();
  const request = requestFor(current, choices);
  const plan = useQuery({
    queryKey: ['plan', view.id, request, view.version],
    queryFn: () => api<PlanView>(`/api/assets/${view.id}/plan`, { method: 'POST', body: request }),
    placeholderData: keepPreviousData,
  });
  const handoffs = useHandoffs(view.id);
  const [shown, setShown] = useState<string | null>(null);
  const [sheet, setSheet] = useState<SheetName>('plan');
  const further = destinations.filter(
    ({ profile }) => profile.id !== current.id && choices.alsoTo.includes(profile.id),
  );
  const start = useMutation({
    mutationFn: () =>
      api<{ handoffs: HandoffEntry[] }>(`/api/assets/${view.id}/handoffs`, {
        method: 'POST',
        body: { requests: [request, ...further.map(({ profile }) => requestFor(profile, choices))] },
      }),
    onSuccess: ({ handoffs: made }) => {
      setShown(made[0].id);
      setSheet('receipt');
      void handoffs.refetch();
    },
    onError: (error) => toast.error(error.message),
  });
  const list = handoffs.data ?? [];
  const shownOne = list.find((handoff) => handoff.id === shown) ?? list[0];
  const earlier =
    shownOne &&
    list
      .slice(list.indexOf(shownOne) + 1)
      .find(
        (one) => one.receipt && one.destination === shownOne.destination && one.variant === shownOne.variant,
      );
  const running = list.some((handoff) => handoff.state === 'queued' || handoff.state === 'running');
  const there: Record<SheetName, boolean> = {
    plan: true,
    receipt: list.length > 0,
    difference: Boolean(shownOne?.receipt && earlier?.receipt),
  };
  const open = there[sheet] ? sheet : 'plan';
  const show = (id: string) => {
    setShown(id);
    setSheet('receipt');
  };
  return (
    <StepSheet
      title="Handoff"
      actions={
        <>
          <DestinationSelect destinations={destinations} current={current} />
          <Button main disabled={start.isPending || running} onClick={() => start.mutate()}>
            <PackageCheck size={14} />{' '}
            {further.length === 0 ? 'Make the package' : `Make ${further.length + 1} packages`}
          </Button>
        </>
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)] p-4">
        <ChoicesRow destination={current} />
        <AlsoTo destinations={destinations} current={current.id} />
        <section className="mb-4">
          <h3 className="mb-1.5 font-semibold">Handoffs of this asset</h3>
          {list.length === 0 && (
            <p className="text-[var(--soft)]">
              None yet. The package is a zip with the model, its maps and a receipt.
            </p>
          )}
          <ul className="grid grid-cols-[minmax(0,1fr)] gap-1.5" aria-label="Handoffs">
            {list.map((handoff) => (
              <HandoffRow
                key={handoff.id}
                handoff={handoff}
                current={handoff.id === shownOne?.id}
                show={() => show(handoff.id)}
              />
            ))}
          </ul>
        </section>
        <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
          <Segments
            label="Sheet"
            options={SHEETS.map(({ id, title }) => [id, title] as const)}
            value={open}
            disabled={(id) => !there[id]}
            pick={setSheet}
          />
          <span className="truncate text-[12px] text-[var(--soft)]">
            {open === 'plan' ? (
              <>
                for {current.title},{' '}
                <Link className="underline underline-offset-2" href={`/destinations?show=${current.id}`}>
                  what it wants
                </Link>
              </>
            ) : (
              shownOne?.fileName
            )}
          </span>
        </div>
        {open === 'plan' && plan.isError && <p className="text-error">{plan.error.message}</p>}
        {open === 'plan' && plan.isPending && <p className="text-[var(--soft)]">planning ...</p>}
        {open === 'plan' && plan.data && <PlanSheet plan={plan.data} />}
        {open === 'receipt' && shownOne?.receipt && <ReceiptSheet receipt={shownOne.receipt} />}
        {open === 'receipt' && !shownOne?.receipt && (
          <p className="text-[var(--soft)]">The receipt comes with the package.</p>
        )}
        {open === 'difference' && shownOne?.receipt && earlier?.receipt && (
          <Difference before={earlier.receipt} after={shownOne.receipt} />
        )}
      </div>
    </StepSheet>
  );
}

/** What is asked of the server: the destination, its variant, and what it leaves open as last chosen. */
function requestFor(
  { id, variants, choices: open }: Destination,
  { variants: chosen, settled, stageAlong }: ReturnType<typeof useChoices.getState>,
): HandoffRequest {
  const own = settled[id] ?? {};
  const choices: HandoffChoices = { variant: variants.find((one) => one === chosen[id]) ?? variants[0] };
  if (open.includes('size') && own.size !== undefined) choices.size = own.size;
  if (open.includes('unit') && own.metresPerUnit !== undefined) choices.metresPerUnit = own.metresPerUnit;
  if (open.includes('type') && own.type !== undefined) choices.type = own.type;
  if (own.turn && choices.variant !== 'obj') choices.turn = own.turn;
  const stage = choices.variant === 'obj' ? null : stageOfView(stageAlong);
  if (stage) choices.stage = stage;
  return { destination: id, choices };
}
