'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { toast } from 'sonner';
import { plural } from '@/ui/format';
import { sendFile } from '../intake/uploads.ts';

/** For file inputs: every image type that can be read. */
export const IMAGE_ACCEPT = 'image/*,.tga,.exr,.hdr,.tif,.tiff,.bmp,.psd,.psb,.dds,.ktx2';

/** Adds further images to a parcel that was read already, with progress in a message. */
export function useImageUpload(parcelId: string): (files: File[]) => Promise<void> {
  const client = useQueryClient();
  return useCallback(
    async (files) => {
      if (files.length === 0) return;
      const note = toast.loading(`Sending ${plural(files.length, 'image')} ...`);
      try {
        for (const [i, file] of files.entries()) {
          await sendFile(parcelId, `added/${file.name}`, file, null, (sent) => {
            toast.loading(`Sending ${file.name}, ${i + 1} of ${files.length}: ${Math.round((100 * sent) / Math.max(1, file.size))}%`, { id: note });
          });
        }
        toast.success(`${plural(files.length, 'image')} added to the parcel.`, { id: note });
      } catch (error) {
        toast.error((error as Error).message, { id: note });
      }
      await client.invalidateQueries({ queryKey: ['asset'] });
    },
    [client, parcelId],
  );
}
