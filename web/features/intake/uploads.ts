'use client';

import { toast } from 'sonner';
import { create } from 'zustand';
import { ApiError, api } from '@/ui/api';
import { plural } from '@/ui/format';

/** A dropped file with its path inside the parcel. */
export interface DroppedFile {
  path: string;
  file: File;
}

/** A drop on its way to the server. */
export interface Upload {
  id: string;
  name: string;
  parcelId: string | null;
  bytes: number;
  sent: number;
  files: number;
  done: number;
  current: string;
  state: 'sending' | 'sent' | 'failed' | 'cancelled';
  error: string;
}

/** A parcel that this page sent: it is followed until its assets are there. */
export interface SentParcel {
  id: string;
  name: string;
}

interface Uploads {
  uploads: Upload[];
  /** The last first. */
  sent: SentParcel[];
  /** Follows a parcel no longer. */
  forget(parcel: string): void;
  /** Sends them as one parcel, and gives its id; null where that failed or was cancelled. */
  start(files: DroppedFile[]): Promise<string | null>;
  cancel(id: string): void;
  dismiss(id: string): void;
}

const cancels = new Map<string, AbortController>();

/** Drops on their way, and how to begin and end one. */
export const useUploads = create<Uploads>()((set, get) => {
  const change = (id: string, part: Partial<Upload>) =>
    set({ uploads: get().uploads.map((upload) => (upload.id === id ? { ...upload, ...part } : upload)) });
  return {
    uploads: [],
    sent: [],
    forget(parcel) {
      set({ sent: get().sent.filter(({ id }) => id !== parcel) });
    },
    async start(files) {
      const id = crypto.randomUUID();
      const abort = new AbortController();
      cancels.set(id, abort);
      const bytes = files.reduce((sum, { file }) => sum + file.size, 0);
      const upload: Upload = {
        id,
        name: parcelName(files),
        parcelId: null,
        bytes,
        sent: 0,
        files: files.length,
        done: 0,
        current: '',
        state: 'sending',
        error: '',
      };
      set({ uploads: [upload, ...get().uploads] });
      try {
        const { id: parcelId } = await api<{ id: string }>('/api/parcels', {
          method: 'POST',
          body: { name: upload.name },
        });
        change(id, { parcelId });
        let before = 0;
        for (const [i, { path, file }] of files.entries()) {
          change(id, { current: path, done: i });
          await sendFile(
            parcelId,
            { path, file },
            (sent) => change(id, { sent: before + sent }),
            abort.signal,
          );
          before += file.size;
        }
        await api(`/api/parcels/${parcelId}/close`, { method: 'POST' });
        change(id, { state: 'sent', sent: bytes, done: files.length, current: '' });
        set({
          uploads: get().uploads.filter((other) => other.id !== id),
          sent: [{ id: parcelId, name: upload.name }, ...get().sent],
        });
        return parcelId;
      } catch (error) {
        const { parcelId } = get().uploads.find((other) => other.id === id) ?? {};
        if (parcelId) await api(`/api/parcels/${parcelId}`, { method: 'DELETE' }).catch(() => undefined);
        if (abort.signal.aborted) set({ uploads: get().uploads.filter((other) => other.id !== id) });
        else change(id, { state: 'failed', error: error instanceof Error ? error.message : String(error) });
        return null;
      } finally {
        cancels.delete(id);
      }
    },
    cancel(id) {
      cancels.get(id)?.abort();
    },
    dismiss(id) {
      set({ uploads: get().uploads.filter((upload) => upload.id !== id) });
    },
  };
});

/** The common folder of the files, or the first file's name without its type. */
function parcelName(files: DroppedFile[]): string {
  const [first] = files;
  const folder = first.path.split('/')[0];
  if (first.path.includes('/') && files.every(({ path }) => path.startsWith(`${folder}/`))) return folder;
  const model = files.find(({ path }) => /\.(fbx|obj|usd[acz]?|gltf|glb|zip)$/i.test(path)) ?? first;
  const name = model.path.slice(model.path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, '');
  return (
    name
      .replace(/[_-]+/g, ' ')
      .trim()
      .replace(/^\p{Ll}/u, (letter) => letter.toUpperCase()) || 'Parcel'
  );
}

/** Sends one file as the raw body. XMLHttpRequest, since only it tells how much was sent. */
/**
 * Sends files as a parcel that is left open, for whoever lays it over assets; `note` is the notice that tells
 * how far it is. Returns the parcel's id.
 */
export async function sendAsDelivery(
  files: readonly DroppedFile[],
  note: string | number,
): Promise<{ id: string; name: string }> {
  const name =
    files.length === 1
      ? files[0].file.name
      : `${plural(files.length, 'file')} of ${new Date().toLocaleDateString('en-GB')}`;
  const { id } = await api<{ id: string }>('/api/parcels', { method: 'POST', body: { name } });
  for (const [i, { path, file }] of files.entries())
    await sendFile(id, { path, file }, (sent) =>
      toast.loading(
        `Sending ${file.name}, ${i + 1} of ${files.length}: ${Math.round((100 * sent) / Math.max(1, file.size))}%`,
        { id: note },
      ),
    );
  return { id, name };
}

/** Sends one file of a drop, telling how much of it is sent. */
export function sendFile(
  parcelId: string,
  { path, file }: DroppedFile,
  progress: (sent: number) => void,
  signal?: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    const query = new URLSearchParams({ path, modified: String(file.lastModified) });
    request.open('PUT', `/api/parcels/${parcelId}/files?${query}`);
    request.upload.onprogress = ({ loaded }) => progress(loaded);
    request.onload = () => {
      if (request.status < 300) return resolve();
      reject(new ApiError(explain(request), 'upload', request.status));
    };
    request.onerror = () =>
      reject(new ApiError(`${path}: the connection broke off. Drop it again.`, 'upload', 0));
    request.onabort = () => reject(new ApiError('cancelled', 'cancelled', 0));
    signal?.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}

function explain(request: XMLHttpRequest): string {
  try {
    return JSON.parse(request.responseText).error.text;
  } catch {
    return `The server answered ${request.status}.`;
  }
}

/** Path of a dropped or picked file inside its folder, without a leading slash. */
export function droppedPath(file: File & { path?: string; relativePath?: string }): string {
  const path = file.webkitRelativePath || file.path || file.name;
  return path.replace(/^(\.?\/)+/, '') || file.name;
}
