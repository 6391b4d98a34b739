'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

interface ServerEvent {
  topic: 'parcel' | 'asset' | 'making' | 'handoff' | 'shelf' | 'settings';
  id: string;
}

/** Keeps what the page shows up to date with what workers and other pages do. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/events');
    source.onmessage = ({ data }) => {
      const { topic, id } = JSON.parse(data) as ServerEvent;
      const refresh = (...queryKey: string[]) => void client.invalidateQueries({ queryKey });
      if (topic === 'handoff') {
        refresh('handoffs', id);
        refresh('all-handoffs');
        refresh('sides', id);
        return;
      }
      if (topic === 'making') {
        refresh('makings', id);
        return;
      }
      if (topic === 'settings') {
        refresh('settings');
        return;
      }
      refresh('shelf');
      if (topic === 'asset') {
        refresh('asset', id);
        refresh('conversions', id);
      }
      if (topic === 'parcel') refresh('asset');
    };
    return () => source.close();
  }, [client]);
}
