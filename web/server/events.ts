import type pg from 'pg';
import { pool } from './db/client.ts';
import { log } from './log.ts';

/** Something changed that a page may be showing. */
export interface ServerEvent {
  topic: 'parcel' | 'asset' | 'making' | 'handoff' | 'shelf' | 'settings';
  id: string;
}

const CHANNEL = 'kinkajou';
type Listener = (event: ServerEvent) => void;
const holder = globalThis as unknown as { kinkajouEvents?: { listeners: Set<Listener>; client: Promise<pg.PoolClient> | null } };
holder.kinkajouEvents ??= { listeners: new Set(), client: null };
const hub = holder.kinkajouEvents;

/** Tells every page on every server process. */
export async function publish(event: ServerEvent): Promise<void> {
  await pool().query('select pg_notify($1, $2)', [CHANNEL, JSON.stringify(event)]);
}

/** Calls back for each event until the returned function is called. One database connection serves all. */
export function subscribe(listener: Listener): () => void {
  hub.listeners.add(listener);
  hub.client ??= listen();
  return () => hub.listeners.delete(listener);
}

async function listen(): Promise<pg.PoolClient> {
  const client = await pool().connect();
  client.on('notification', ({ payload }) => {
    const event = JSON.parse(payload ?? '{}') as ServerEvent;
    for (const listener of hub.listeners) listener(event);
  });
  client.on('error', (error) => {
    log.warn({ err: error }, 'event connection lost');
    hub.client = null;
    if (hub.listeners.size > 0) setTimeout(() => (hub.client ??= listen()), 1000);
  });
  await client.query(`listen ${CHANNEL}`);
  return client;
}
