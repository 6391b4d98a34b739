import type { ClientBase } from 'pg';

/**
 * Tables that know contents only so long as something else has them: what pixels say, what was baked, what
 * jobs once did.
 */
const KNOWING = ['image_facts', 'baked_images', 'jobs'];
/** Documents that name files of packages, which lie within their zip. */
const OF_PACKAGES = ['receipt'];

/**
 * Every content that anything in the database names, wherever it stands: in columns and deep inside
 * documents. So nothing that a later version keeps in another place is taken for refuse.
 */
export function namedBlobs(client: ClientBase): Promise<Set<string>> {
  return blobsIn(client, []);
}

/** Those that must be there. */
export function requiredBlobs(client: ClientBase): Promise<Set<string>> {
  return blobsIn(client, OF_PACKAGES);
}

async function blobsIn(client: ClientBase, fieldsBut: readonly string[]): Promise<Set<string>> {
  const { rows: tables } = await client.query<{ name: string }>(
    "select tablename as name from pg_tables where schemaname = 'public'",
  );
  const found = new Set<string>();
  for (const { name } of tables) {
    if (KNOWING.includes(name)) continue;
    const { rows } = await client.query<{ hash: string }>(
      `select distinct m[1] as hash from "${name}" t, regexp_matches((to_jsonb(t) - $1::text[])::text, '\\m[0-9a-f]{64}\\M', 'g') m`,
      [fieldsBut],
    );
    for (const { hash } of rows) found.add(hash);
  }
  return found;
}
