'use client';

import { FileBox, FolderOpen, PackageOpen } from 'lucide-react';
import { type ChangeEvent, useRef } from 'react';
import { useShelf } from '@/features/shelf/shelf';
import { AppStrip } from '@/ui/AppStrip';
import { blobUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { Arrived } from './Arrived.tsx';
import { ParcelList } from './ParcelList.tsx';
import { droppedPath, useUploads } from './uploads.ts';

/** Where parcels come in: drop or pick a zip, a folder or loose files. */
export function IntakeView() {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const start = useUploads((uploads) => uploads.start);
  const take = ({ target }: ChangeEvent<HTMLInputElement>) => {
    const picked = [...(target.files ?? [])];
    if (picked.length > 0) void start(picked.map((file) => ({ path: droppedPath(file), file })));
    target.value = '';
  };
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <main className="mx-auto grid w-full max-w-[980px] flex-1 auto-rows-min gap-4 overflow-auto p-5">
        <section className="grid justify-items-center gap-3 rounded-lg border-2 border-dashed border-[var(--line)] bg-base-100 px-6 py-9 text-center">
          <PackageOpen size={34} className="text-accent" />
          <h1 className="text-lg font-semibold">Drop a model with its images</h1>
          <p className="max-w-[56ch] text-[var(--soft)]">
            A zip, a folder or loose files. FBX, OBJ with MTL, USD and glTF are read; several models in one
            parcel become several assets. Nothing you drop is changed.
          </p>
          <div className="flex gap-2">
            <Button main onClick={() => files.current?.click()}>
              <FileBox size={15} /> Pick files or a zip
            </Button>
            <Button onClick={() => folder.current?.click()}>
              <FolderOpen size={15} /> Pick a folder
            </Button>
          </div>
          <input ref={files} type="file" multiple hidden onChange={take} data-testid="pick-files" />
          <input ref={folder} type="file" hidden onChange={take} {...{ webkitdirectory: '' }} />
        </section>
        <ParcelList />
        <Arrived />
        <Recent />
      </main>
    </div>
  );
}

function Recent() {
  const recent = useShelf({ limit: 6 }).data?.assets ?? [];
  if (recent.length === 0) return null;
  return (
    <section>
      <h2 className="mb-2 text-[13.5px] font-semibold">Last on the shelf</h2>
      <ul className="grid grid-cols-3 gap-2">
        {recent.map((asset) => (
          <li key={asset.id}>
            <Link
              href={`/assets/${asset.id}/intake`}
              className="flex items-center gap-2.5 rounded-md border border-[var(--line)] bg-base-100 p-2 hover:border-accent"
            >
              {asset.thumbnail && <img src={blobUrl(asset.thumbnail)} alt="" width={60} height={50} />}
              <span className="min-w-0">
                <b className="block truncate">{asset.name}</b>
                <span className="text-[11.5px] text-[var(--soft)]">
                  {asset.format}, {when(asset.updatedAt)}
                </span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
