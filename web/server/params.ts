import { notFound } from './respond.ts';

/** Parameters of a dynamic route as Next.js hands them over. */
export type RouteParams<K extends string> = { params: Promise<Record<K, string>> };

/** The `id` of the route, checked to be a UUID before it reaches the database. */
export async function uuidParam({ params }: RouteParams<'id'>): Promise<string> {
  const { id } = await params;
  if (!/^[0-9a-f]{8}-([0-9a-f]{4}-){3}[0-9a-f]{12}$/i.test(id)) throw notFound('record');
  return id;
}

/** The `hash` of the route, checked to be a SHA-256 before it becomes a path. */
export async function hashParam({ params }: RouteParams<'hash'>): Promise<string> {
  const { hash } = await params;
  if (!/^[0-9a-f]{64}$/.test(hash)) throw notFound('blob');
  return hash;
}

/** A whole number in the route. */
export async function numberParam<K extends string>({ params }: RouteParams<K>, name: K): Promise<number> {
  const { [name]: text } = await params;
  if (!/^\d{1,9}$/.test(text)) throw notFound('record');
  return Number(text);
}
