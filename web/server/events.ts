import pg from 'pg';
import { pool } from './db/client.ts';
import type { JobState } from './db/rowTypes.ts';
import { databaseUrl } from './env.ts';
import type { JobName } from './jobs/kinds.ts';
import { log } from './log.ts';

/** Something changed that a page may be showing, or that a worker waits for. */
export type ServerEvent =
  | { topic: 'asset'; id: string; revision: number }
  | { topic: 'parcel' | 'shelf' | 'settings'; id: string }
  /** `id` is what the job is about. */
  | { topic: 'job'; kind: JobName; id: string; state: JobState }
  /** The connection was lost for a while, so that anything may have changed. */
  | { topic: 'everything' };

const CHANNEL = 'kinkajou';
const AGAIN_MS = 1000;
type Listener = (event: ServerEvent) => void;

interface Hub {
  listeners: Set<Listener>;
  client: pg.Client | null;
  /** A connection is being made, or is waited for. */
  connecting: boolean;
  /** It was connected before. */
  lost: boolean;
}

const holder = globalThis as unknown as { kinkajouEvents?: Hub };
holder.kinkajouEvents ??= { listeners: new Set(), client: null, connecting: false, lost: false };
const hub = holder.kinkajouEvents;

/** Tells every page on every server process, and every worker. */
export async function publish(event: ServerEvent): Promise<void> {
  await pool().query('select pg_notify($1, $2)', [CHANNEL, JSON.stringify(event)]);
}

/**
 * Calls back for each event until the returned function is called. One database connection serves all, and is
 * made anew when it is lost.
 */
export function subscribe(listener: Listener): () => void {
  hub.listeners.add(listener);
  connect();
  return () => {
    hub.listeners.delete(listener);
    if (hub.listeners.size > 0) return;
    const { client } = hub;
    hub.client = null;
    hub.lost = false;
    void client?.end().catch(() => undefined);
  };
}

function connect(): void {
  if (hub.client || hub.connecting || hub.listeners.size === 0) return;
  hub.connecting = true;
  listen()
    .then((client) => {
      hub.connecting = false;
      hub.client = client;
      if (hub.lost) tell({ topic: 'everything' });
      hub.lost = false;
    })
    .catch((error) => {
      log.warn({ err: error }, 'no connection for events');
      hub.connecting = false;
      setTimeout(connect, AGAIN_MS);
    });
}

async function listen(): Promise<pg.Client> {
  const client = new pg.Client({
    connectionString: databaseUrl(),
    keepAlive: true,
    connectionTimeoutMillis: 5000,
  });
  client.on('notification', ({ payload }) => tell(JSON.parse(payload ?? '{}') as ServerEvent));
  client.on('error', (error) => log.warn({ err: error }, 'event connection'));
  client.on('end', () => {
    if (hub.client !== client) return;
    hub.client = null;
    hub.lost = true;
    setTimeout(connect, AGAIN_MS);
  });
  await client.connect();
  await client.query(`listen ${CHANNEL}`);
  return client;
}

function tell(event: ServerEvent): void {
  for (const listener of hub.listeners) listener(event);
}
