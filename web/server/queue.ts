import PgBoss from 'pg-boss';
import { databaseUrl } from './env.ts';
import { log } from './log.ts';

/** Jobs and what each carries. */
export interface JobData {
  'read-parcel': { parcelId: string };
  'hand-off': { handoffId: string };
  'draw-thumbnail': { assetId: string };
  'look-at-images': { parcelId: string };
  'read-delivery': { parcelId: string; assetId: string };
  'index-root': { rootId: number };
  'convert-image': { conversionId: string };
  'make-maps': { makingId: string };
}
export type JobName = keyof JobData;

const NAMES: JobName[] = ['read-parcel', 'hand-off', 'draw-thumbnail', 'look-at-images', 'read-delivery', 'index-root', 'convert-image', 'make-maps'];
const holder = globalThis as unknown as { kinkajouQueue?: Promise<PgBoss> };

/** The queue in PostgreSQL, started once per process. */
export function queue(): Promise<PgBoss> {
  holder.kinkajouQueue ??= startQueue();
  return holder.kinkajouQueue;
}

async function startQueue(): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl(), max: 4 });
  boss.on('error', (error) => log.warn({ err: error }, 'queue'));
  await boss.start();
  for (const name of NAMES) await boss.createQueue(name);
  return boss;
}

export async function enqueue<N extends JobName>(name: N, data: JobData[N], options: PgBoss.SendOptions = {}): Promise<void> {
  await (await queue()).send(name, data, { retryLimit: 0, expireInHours: 6, ...options });
}
