'use client';

import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { hearOf } from '@/features/bench/benchQuery';
import type { ServerEvent } from '@/server/events';
import type { JobName } from '@/server/jobs/kinds';
import { setLost } from './connection.ts';

/** What the page shows of each kind of job; `*` stands for what the job is about. */
const SHOWN_BY: { [N in JobName]: string[][] } = {
  'read-parcel': [['parcels']],
  'read-delivery': [['parcels']],
  'join-assets': [['parcels']],
  'look-at-images': [],
  'draw-thumbnail': [],
  'index-root': [['settings']],
  'hand-off': [['handoffs', '*'], ['all-handoffs'], ['sides', '*']],
  'make-maps': [['makings', '*']],
  'convert-image': [['conversions', '*']],
  'repair-tags': [],
  'replace-materials': [],
  'apply-rules': [['runs']],
  'write-packages': [],
  'draw-trial': [],
};

/** Keeps what the page shows up to date with what workers and other pages do. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/events');
    let lost = false;
    source.onmessage = ({ data }) => {
      const event = JSON.parse(data) as ServerEvent;
      if (event.topic === 'asset') hearOf(client, event.id, event.revision);
      for (const queryKey of touchedBy(event)) void refresh(client, queryKey);
    };
    source.onerror = () => {
      lost = true;
      setLost(true);
    };
    // What happened while nobody listened is unknown.
    source.onopen = () => {
      setLost(false);
      if (lost) void client.invalidateQueries();
      lost = false;
    };
    return () => source.close();
  }, [client]);
}

/**
 * Asks anew for what is shown, and for the rest when it is shown again. An answer that is still on its way to
 * what is not shown may be older than the event, and would count as new: it is not waited for.
 */
export async function refresh(client: QueryClient, queryKey: readonly string[]): Promise<void> {
  await client.cancelQueries({ queryKey, type: 'inactive' });
  await client.invalidateQueries({ queryKey });
}

/** Keys of the queries that an event makes stale; an empty key stands for all. */
export function touchedBy(event: ServerEvent): string[][] {
  switch (event.topic) {
    case 'everything':
      return [[]];
    case 'job':
      return SHOWN_BY[event.kind].map((key) => key.map((part) => (part === '*' ? event.id : part)));
    case 'settings':
      return [['settings']];
    case 'parcel':
      return [['parcels'], ['shelf'], ['questions'], ['asset']];
    case 'asset':
      // The asset itself asks only for what it does not have.
      return [['shelf'], ['questions']];
    case 'shelf':
      return [['shelf'], ['questions']];
  }
}
