import { notFound } from '../respond.ts';

/** One way to read an asset, or what is laid beside it. */
export type Side =
  | { kind: 'delivered' }
  | { kind: 'edited' }
  | { kind: 'careless' }
  | { kind: 'handoff'; id: string }
  | { kind: 'asset'; id: string };

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/;

/**
 * A side as requests and addresses write it: a word, or `handoff:` or `asset:` and an id. Throws `notFound`
 * for all else.
 */
export function parseSide(text: string): Side {
  if (text === 'delivered' || text === 'edited' || text === 'careless') return { kind: text };
  const cut = text.indexOf(':');
  const [kind, id] = [text.slice(0, cut), text.slice(cut + 1)];
  if ((kind === 'handoff' || kind === 'asset') && UUID.test(id)) return { kind, id };
  throw notFound('side to compare');
}
