'use client';

import { X } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import { toast } from 'sonner';
import { Button } from '@/ui/Button';
import { count, plural } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import { Link } from '@/ui/Link';
import { useStartRun } from '../runs/useRuns.ts';
import { Picture, Tallies } from '../shelf/AssetCard.tsx';
import { filterBy, selectAllFound } from '../shelf/selected.ts';
import { useOpenParcels, useShelf } from '../shelf/shelf.ts';
import { type SentParcel, useUploads } from './uploads.ts';

/** Cards that are shown of one parcel; the shelf has them all. */
const MOST_CARDS = 12;

/**
 * What this page sent and what became of it: one asset opens by itself where its first doubt is, several
 * stand here as cards.
 */
export function Arrived() {
  const sent = useUploads((uploads) => uploads.sent);
  return sent.map((parcel) => <ArrivedParcel key={parcel.id} parcel={parcel} />);
}

function ArrivedParcel({ parcel }: { parcel: SentParcel }) {
  const forget = useUploads((uploads) => uploads.forget);
  const router = useRouter();
  const open = useOpenParcels().data;
  const { data } = useShelf({ parcel: parcel.id, sort: 'findings', limit: MOST_CARDS });
  const start = useStartRun();
  const reading = open === undefined || open.some(({ id, state }) => id === parcel.id && state !== 'ready');
  const assets = data?.assets ?? [];
  const total = data?.total ?? 0;
  // What was left out of a parcel is read first.
  const faulty = open?.some(({ id }) => id === parcel.id) ?? false;
  const single = !reading && !faulty && total === 1 ? assets[0] : undefined;
  useEffect(() => {
    if (!single) return;
    forget(parcel.id);
    router.push(`/assets/${single.id}`);
  }, [single, parcel.id, forget, router]);
  if (reading || total === 0 || single) return null;
  const selectAll = async () => {
    filterBy({ parcel: parcel.id });
    await selectAllFound();
    router.push('/');
  };
  return (
    <section
      aria-label={`${parcel.name}, arrived`}
      className="rounded-md border border-[var(--line)] bg-base-200 p-3"
    >
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="text-[13.5px] font-semibold">{parcel.name}</h2>
        <span className="text-[var(--soft)]">{plural(total, 'asset')} on the shelf</span>
        <span className="flex-1" />
        <Button
          main
          disabled={start.isPending}
          onClick={() =>
            start.mutate({
              title: `Mended what is safe in ${parcel.name}`,
              mend: true,
              filter: { parcel: parcel.id },
            })
          }
        >
          Mend all that is safe
        </Button>
        <Button
          title="For rulebooks, packages and the like"
          onClick={() => selectAll().catch((error: Error) => toast.error(error.message))}
        >
          Select all {count(total)} on the shelf
        </Button>
        <IconButton label={`Put ${parcel.name} aside`} onClick={() => forget(parcel.id)}>
          <X size={14} />
        </IconButton>
      </div>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(290px,1fr))] gap-2">
        {assets.map((asset) => (
          <li
            key={asset.id}
            className="flex overflow-hidden rounded-md border border-[var(--line)] bg-base-100 hover:border-accent"
          >
            <Link
              href={`/assets/${asset.id}`}
              className="flex min-w-0 flex-1"
              aria-label={`Open ${asset.name}`}
            >
              <Picture entry={asset} />
              <span className="grid min-w-0 content-between gap-1 p-2.5">
                <b className="truncate" title={asset.name}>
                  {asset.name}
                </b>
                <Tallies severities={asset.severities} />
                <span className="text-[12px] text-[var(--soft)]">{asset.format}</span>
              </span>
            </Link>
            <Link
              href={`/assets/${asset.id}/handoff`}
              className="self-end p-2.5 text-[12px] underline decoration-dotted underline-offset-2 hover:decoration-solid"
            >
              Hand off
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
