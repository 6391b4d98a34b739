import type { QueryClient } from '@tanstack/react-query';
import type { BenchAnswer, BenchData } from '@/server/wire/bench';
import { api } from '@/ui/api';
import { pendingOf, received } from './pending.ts';

/** Key of an asset's bench among the queries. */
export const benchKey = (id: string) => ['asset', id];

/** Asks the server for an asset, or for what changed since the page was told of it last. */
export async function fetchBench(client: QueryClient, id: string): Promise<BenchData> {
  const existing = client.getQueryData<BenchData>(benchKey(id));
  const answer = await api<BenchAnswer>(
    `/api/assets/${id}/bench${existing ? `?since=${existing.version}` : ''}`,
  );
  // An answer to an edit may have come in between.
  const current = client.getQueryData<BenchData>(benchKey(id));
  const next = received(current, answer);
  if (next) return next;
  const { whole } = (await api<BenchAnswer>(`/api/assets/${id}/bench`)) as { whole: BenchData };
  return whole;
}

/** Newest revision of each asset that was told of. */
const heard = new Map<string, number>();

/** Something changed an asset: asks what, unless the page has it, or is being answered just now. */
export function hearOf(client: QueryClient, id: string, revision: number): void {
  heard.set(id, Math.max(revision, heard.get(id) ?? 0));
  if (pendingOf(id).length === 0) catchUp(client, id);
}

/** Asks for what others did while the page was busy with its own. */
export function catchUp(client: QueryClient, id: string): void {
  const existing = client.getQueryData<BenchData>(benchKey(id));
  if (existing && existing.revision < (heard.get(id) ?? 0))
    void client.invalidateQueries({ queryKey: benchKey(id), exact: true });
}
