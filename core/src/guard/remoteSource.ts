import type { MessagePort } from 'node:worker_threads';
import type { FileSource, SourceFile } from '../parcel/fileSource.ts';
import { type GuardFault, revived } from './fault.ts';

/**
 * A request for bytes of a file, and what comes back. `next` gives the piece after the last one, null at the
 * end.
 */
export interface BytesRequest {
  kind: 'read' | 'next';
  id: number;
  path: string;
}
/** The answer to a request for bytes: the bytes, null at the end, or what went wrong. */
export type BytesAnswer = { id: number; bytes: Uint8Array | null } | { id: number; fault: GuardFault };

/** A source of files in another thread. */
export interface RemoteFiles {
  name: string;
  files: readonly SourceFile[];
  /** Whether the files can be had in pieces. */
  streams: boolean;
  port: MessagePort;
}

/** A source whose bytes are with the thread at the other end of a port. */
export function remoteSource({ name, files, streams, port }: RemoteFiles): FileSource {
  const waiting = new Map<
    number,
    { resolve: (bytes: Uint8Array | null) => void; reject: (error: Error) => void }
  >();
  let last = 0;
  port.on('message', (answer: BytesAnswer) => {
    const asker = waiting.get(answer.id);
    waiting.delete(answer.id);
    if (!asker) return;
    if ('bytes' in answer) asker.resolve(answer.bytes);
    else asker.reject(revived(answer.fault));
  });
  const ask = (kind: BytesRequest['kind'], path: string) =>
    new Promise<Uint8Array | null>((resolve, reject) => {
      last += 1;
      waiting.set(last, { resolve, reject });
      port.postMessage({ kind, id: last, path } satisfies BytesRequest);
    });
  return {
    name,
    files,
    notices: [],
    read: async (path) => (await ask('read', path)) as Uint8Array,
    ...(streams
      ? {
          async *stream(path: string) {
            for (let piece = await ask('next', path); piece; piece = await ask('next', path)) yield piece;
          },
        }
      : {}),
    async close() {},
  };
}
