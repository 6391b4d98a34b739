'use client';

import { useQueryClient } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { toast } from 'sonner';
import { type OpenParcel, useOpenParcels } from '@/features/shelf/shelf';
import { api } from '@/ui/api';
import { bytes, plural } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import { Mark } from '@/ui/Mark';
import { type Upload, useUploads } from './uploads.ts';

/** Uploads on their way, parcels being read, and what could not be taken. */
export function ParcelList() {
  const uploads = useUploads((state) => state.uploads);
  const parcels = (useOpenParcels().data ?? []).filter((parcel) => parcel.state !== 'uploading');
  if (uploads.length + parcels.length === 0) return null;
  return (
    <ul className="grid gap-2" aria-label="Parcels">
      {uploads.map((upload) => (
        <UploadRow key={upload.id} upload={upload} />
      ))}
      {parcels.map((parcel) => (
        <ParcelRow key={parcel.id} parcel={parcel} />
      ))}
    </ul>
  );
}

function UploadRow({ upload }: { upload: Upload }) {
  const { cancel, dismiss } = useUploads();
  const failed = upload.state === 'failed';
  return (
    <li className="rounded-md border border-[var(--line)] bg-base-100 px-3 py-2">
      <div className="flex items-center gap-2">
        {failed && <Mark kind="broken" />}
        <b className="min-w-0 truncate">{upload.name}</b>
        <span className="truncate text-[var(--soft)]">
          {failed ? upload.error : `sending ${upload.current}`}
        </span>
        <span className="flex-1" />
        <span className="font-mono text-[11.5px]">
          {upload.done} of {plural(upload.files, 'file')}, {bytes(upload.sent)} of {bytes(upload.bytes)}
        </span>
        <CloseButton
          label={failed ? `Put ${upload.name} aside` : `Cancel ${upload.name}`}
          onClick={() => (failed ? dismiss(upload.id) : cancel(upload.id))}
        />
      </div>
      {!failed && (
        <progress
          className="progress progress-primary mt-1.5 h-1.5 w-full"
          aria-label={`Sending ${upload.name}`}
          value={upload.sent}
          max={Math.max(1, upload.bytes)}
        />
      )}
    </li>
  );
}

function ParcelRow({ parcel }: { parcel: OpenParcel }) {
  const client = useQueryClient();
  const reading = parcel.state === 'reading';
  const close = async () => {
    try {
      await api(parcel.state === 'ready' ? `/api/parcels/${parcel.id}/faults` : `/api/parcels/${parcel.id}`, {
        method: 'DELETE',
      });
      await client.invalidateQueries({ queryKey: ['parcels'] });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const label = closeLabel(reading, parcel);
  return (
    <li className="rounded-md border border-[var(--line)] bg-base-100 px-3 py-2" data-state={parcel.state}>
      <div className="flex items-center gap-2">
        {!reading && <Mark kind={parcel.state === 'failed' ? 'broken' : 'doubtful'} />}
        <b className="min-w-0 truncate">{parcel.name}</b>
        <span className="truncate text-[var(--soft)]">{parcelState(reading, parcel)}</span>
        <span className="flex-1" />
        {reading && (
          <span className="font-mono text-[11.5px]">{Math.round((parcel.progress ?? 0) * 100)}%</span>
        )}
        <CloseButton label={label} onClick={() => void close()} />
      </div>
      {reading && (
        <progress
          className="progress progress-accent mt-1.5 h-1.5 w-full"
          aria-label={`Reading ${parcel.name}`}
          value={parcel.progress ?? 0}
          max={1}
        />
      )}
      {parcel.faults.length > 0 && (
        <ul className="mt-1.5 grid max-h-48 gap-0.5 overflow-auto text-[12px]">
          {parcel.faults.map((fault) => (
            <li key={`${fault.code}:${fault.file}`} className="break-words">
              {fault.message}
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function closeLabel(reading: boolean, parcel: OpenParcel) {
  if (reading) return `Cancel ${parcel.name}`;
  return parcel.state === 'failed' ? `Remove ${parcel.name}` : `Put the list of ${parcel.name} aside`;
}

function parcelState(reading: boolean, parcel: OpenParcel) {
  if (reading) return parcel.doing;
  return parcel.state === 'failed'
    ? 'could not be read'
    : `on the shelf; ${plural(parcel.faults.length, 'file was', 'files were')} left out`;
}

function CloseButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <IconButton label={label} onClick={onClick}>
      <X size={14} />
    </IconButton>
  );
}
