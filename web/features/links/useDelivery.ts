'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { toast } from 'sonner';
import { api } from '@/ui/api';
import { plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { type DroppedFile, sendAsDelivery } from '../intake/uploads.ts';

const POLL_MS = 300;

interface ParcelAnswer {
  state: 'uploading' | 'reading' | 'ready' | 'failed';
  faults: { message: string }[];
}

/** Sends a newer delivery of the asset and waits until it is laid over the old one. */
export function useDelivery(): { deliver: (files: DroppedFile[]) => Promise<void>; busy: boolean } {
  const { view } = useBench();
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const assetId = view.id;
  const deliver = useCallback(
    async (files: DroppedFile[]) => {
      if (files.length === 0) return;
      setBusy(true);
      const note = toast.loading(`Sending ${plural(files.length, 'file')} ...`);
      try {
        const { id } = await sendAsDelivery(files, note);
        await api(`/api/assets/${assetId}/deliveries`, { method: 'POST', body: { parcelId: id } });
        toast.loading('Reading the delivery ...', { id: note });
        await settled(id);
        await client.invalidateQueries({ queryKey: ['asset', assetId] });
        toast.success('The newer delivery is in place.', { id: note });
        useFocus.getState().set({ dialog: 'deliveries' });
      } catch (error) {
        toast.error((error as Error).message, { id: note });
      } finally {
        setBusy(false);
      }
    },
    [client, assetId],
  );
  return { deliver, busy };
}

/** Waits until a worker is done with a parcel. Throws what was wrong with it. */
export async function settled(parcelId: string): Promise<void> {
  for (;;) {
    const { state, faults } = await api<ParcelAnswer>(`/api/parcels/${parcelId}`);
    if (state === 'ready') return;
    if (state === 'failed')
      throw new Error(`It was not taken. ${faults.map((fault) => fault.message).join(' ')}`);
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
  }
}
