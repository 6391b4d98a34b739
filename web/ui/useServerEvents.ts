'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { ServerEvent } from '@/server/events';
import type { JobName } from '@/server/jobs/kinds';

/** What the page shows of each kind of job; `*` stands for what the job is about. */
const SHOWN_BY: { [N in JobName]: string[][] } = {
  'read-parcel': [['shelf']],
  'read-delivery': [['shelf']],
  'look-at-images': [],
  'draw-thumbnail': [],
  'index-root': [['settings']],
  'hand-off': [['handoffs', '*'], ['all-handoffs'], ['sides', '*']],
  'make-maps': [['makings', '*']],
  'convert-image': [['conversions', '*']],
  'repair-tags': [],
  'replace-materials': [],
};

/** Keeps what the page shows up to date with what workers and other pages do. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/events');
    let lost = false;
    source.onmessage = ({ data }) => {
      for (const queryKey of touchedBy(JSON.parse(data) as ServerEvent)) void client.invalidateQueries({ queryKey });
    };
    source.onerror = () => {
      lost = true;
    };
    // What happened while nobody listened is unknown.
    source.onopen = () => {
      if (lost) void client.invalidateQueries();
      lost = false;
    };
    return () => source.close();
  }, [client]);
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
      return [['shelf'], ['asset']];
    case 'asset':
      return [['shelf'], ['asset', event.id], ['conversions', event.id]];
    case 'shelf':
      return [['shelf']];
  }
}
