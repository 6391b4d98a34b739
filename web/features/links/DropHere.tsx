'use client';

import { isImagePath } from '@kinkajou/core/images/format';
import { type ReactNode, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { Button } from '@/ui/Button';
import { plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { type DroppedFile, droppedPath } from '../intake/uploads.ts';
import { unpackImages } from './unpackImages.ts';
import { useDelivery } from './useDelivery.ts';
import { useImageUpload } from './useImageUpload.ts';

/**
 * Files dropped on this step are further images, or a newer delivery of the asset; images alone may be
 * either.
 */
export function DropHere({ children }: { children: ReactNode }) {
  const [dropped, setDropped] = useState<DroppedFile[]>([]);
  const upload = useImageUpload();
  const { deliver } = useDelivery();
  const zone = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: async (files) => {
      const list = files.map((file) => ({ path: droppedPath(file), file }));
      const images = await onlyImages(list);
      if (images) setDropped(images);
      else if (list.length > 0) void deliver(list);
    },
  });
  const take = (work: () => void) => {
    setDropped([]);
    work();
  };
  return (
    <div {...zone.getRootProps({ className: 'relative h-full' })}>
      <input {...zone.getInputProps()} data-testid="drop-delivery" />
      {children}
      {zone.isDragActive && (
        <div className="pointer-events-none absolute inset-2 z-30 grid place-items-center rounded-md border-2 border-dashed border-accent bg-base-100/85 text-[14px] font-semibold">
          Drop images, or a newer delivery of this asset
        </div>
      )}
      {dropped.length > 0 && (
        <Modal title={`${plural(dropped.length, 'image')} dropped`} close={() => setDropped([])}>
          <div className="grid gap-3 p-4">
            <Button className="py-2" onClick={() => take(() => void upload(dropped.map(({ file }) => file)))}>
              Add to the parcel
            </Button>
            <Button className="py-2" onClick={() => take(() => void deliver(dropped))}>
              Take as a newer delivery: same names replace the old images
            </Button>
          </div>
        </Modal>
      )}
    </div>
  );
}

/**
 * The images that were dropped, zips unpacked; null where something else is among them, which is a delivery
 * then.
 */
async function onlyImages(list: readonly DroppedFile[]): Promise<DroppedFile[] | null> {
  if (list.every(({ path }) => isImagePath(path))) return [...list];
  if (!list.every(({ path }) => isImagePath(path) || /\.zip$/i.test(path))) return null;
  const unpacked = await unpackImages(list.map(({ file }) => file)).catch(() => null);
  return unpacked && unpacked.others === 0
    ? unpacked.images.map((file) => ({ path: file.name, file }))
    : null;
}
