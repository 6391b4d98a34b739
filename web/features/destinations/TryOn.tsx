'use client';

import type { Destination } from '@kinkajou/core/destinations/profile';
import { groupedLines } from '@kinkajou/core/handoff/words';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { PlanView } from '@/server/services/handoffs';
import { api } from '@/ui/api';
import { ChipSelect } from '@/ui/Chip';
import { Mark } from '@/ui/Mark';
import { FileTable } from '../handoff/PlanSheet.tsx';
import { useShelf } from '../shelf/shelf.ts';

/** Assets that are offered, the last changed first. */
const OFFERED = 200;

/** What the destination would make of an asset from the shelf: the list of files, as the profile stands. */
export function TryOn({ profile }: { profile: Destination }) {
  const shelf = useShelf({ limit: OFFERED });
  const [chosen, setChosen] = useState('');
  const assets = shelf.data?.assets ?? [];
  const asset = assets.find(({ id }) => id === chosen) ?? assets[0];
  const plan = useQuery({
    queryKey: ['try', asset?.id, profile],
    queryFn: () => api<PlanView>(`/api/assets/${asset?.id}/plan`, { method: 'POST', body: { profile } }),
    enabled: asset !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <section aria-label="Tried on an asset">
      <h3 className="mb-1.5 flex items-center gap-2 font-semibold">
        Tried on
        {asset ? (
          <ChipSelect
            className="max-w-60"
            aria-label="Asset to try it on"
            value={asset.id}
            onChange={(event) => setChosen(event.target.value)}
          >
            {assets.map(({ id, name, parcelName }) => (
              <option key={id} value={id}>
                {name === parcelName ? name : `${name} (${parcelName})`}
              </option>
            ))}
          </ChipSelect>
        ) : (
          <span className="font-normal text-[var(--soft)]">
            {shelf.data ? 'an asset, once there is one on the shelf' : '...'}
          </span>
        )}
      </h3>
      {plan.isError && <p className="mb-2 break-words text-error">{plan.error.message}</p>}
      {plan.data && !plan.isError && (
        <>
          <ul className="mb-2 grid gap-0.5 text-[12.3px]">
            {groupedLines(plan.data.losses).map((line) => (
              <li key={line} className="flex items-baseline gap-2">
                <Mark kind="doubtful" /> <span className="min-w-0 break-words">{line}</span>
              </li>
            ))}
            {plan.data.changes.map((line) => (
              <li key={line} className="flex items-baseline gap-2">
                <Mark kind="empty" /> <span className="min-w-0 break-words">{line}</span>
              </li>
            ))}
          </ul>
          <FileTable files={plan.data.files} />
        </>
      )}
    </section>
  );
}
