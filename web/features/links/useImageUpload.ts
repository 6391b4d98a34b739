'use client';

import type { Edit } from '@kinkajou/core/asset/asset';
import { foldName } from '@kinkajou/core/links/fileIndex';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef } from 'react';
import { toast } from 'sonner';
import { fileName, plural } from '@/ui/format';
import { type Bench, useBench } from '../bench/useBench.ts';
import { sendFile } from '../intake/uploads.ts';
import { askConflicts } from './conflicts.ts';
import { unpackImages } from './unpackImages.ts';

/** For file inputs: every image type that can be read. */
export const IMAGE_ACCEPT = 'image/*,.zip,.tga,.exr,.hdr,.tif,.tiff,.bmp,.psd,.psb,.dds,.ktx2';

/**
 * Adds further images to the asset's parcel, zips of them unpacked, with progress in a message. Where names
 * are there already the person is asked once: reuse, replace or keep both. Files never take each other's
 * place; to replace is an edit.
 */
export function useImageUpload(): (files: File[]) => Promise<void> {
  const client = useQueryClient();
  const bench = useBench();
  const latest = useRef(bench);
  latest.current = bench;
  return useCallback(
    async (given) => {
      const { view } = latest.current;
      const unpacked = await unpackImages(given).catch((error: Error) => {
        toast.error(error.message);
        return null;
      });
      if (!unpacked) return;
      const files = unpacked.images;
      if (files.length === 0) {
        toast.error('No image is in it.');
        return;
      }
      const existing = new Set(view.images.map((image) => foldName(fileName(image.path))));
      const clashing = files.filter((file) => existing.has(foldName(file.name)));
      const answer = clashing.length > 0 ? await askConflicts(clashing.map((file) => file.name)) : 'both';
      if (answer === null) return;
      const sent = answer === 'reuse' ? files.filter((file) => !clashing.includes(file)) : files;
      if (sent.length === 0) {
        toast('The images that are here already are used.');
        return;
      }
      const note = toast.loading(`Sending ${plural(sent.length, 'image')} ...`);
      const places = new Map<File, string>();
      try {
        for (const [i, file] of sent.entries()) {
          const path = freePath(
            file.name,
            view.images.map((image) => image.path).concat([...places.values()]),
          );
          await sendFile(view.parcel.id, { path, file }, (done) => {
            toast.loading(
              `Sending ${file.name}, ${i + 1} of ${sent.length}: ${Math.round((100 * done) / Math.max(1, file.size))}%`,
              { id: note },
            );
          });
          places.set(file, path);
        }
        const left =
          unpacked.others > 0 ? ` ${plural(unpacked.others, 'other file')} in the zip stayed out.` : '';
        toast.success(`${plural(sent.length, 'image')} added to the parcel.${left}`, { id: note });
      } catch (error) {
        toast.error((error as Error).message, { id: note });
      }
      await client.invalidateQueries({ queryKey: ['asset'] });
      if (answer === 'replace') replaceWith(latest.current, places);
    },
    [client],
  );
}

/** Points every image of the same name at the new file. */
function replaceWith(bench: Bench, places: ReadonlyMap<File, string>): void {
  const links = [...places].flatMap(([file, path]) =>
    bench.view.state.images
      .filter((image) => image.resolved && foldName(fileName(image.resolved)) === foldName(file.name))
      .map((image) => ({ image: image.key, path, reason: 'replaced by an upload of the same name' })),
  );
  const edit: Edit = {
    kind: 'linkImages',
    links,
    origin: { from: 'hand', detail: 'replaced by uploads of the same names' },
  };
  if (links.length > 0) bench.apply([edit]);
}

function freePath(name: string, taken: readonly string[]): string {
  let path = `added/${name}`;
  for (let i = 2; taken.includes(path); i += 1) path = `added/${i}/${name}`;
  return path;
}
