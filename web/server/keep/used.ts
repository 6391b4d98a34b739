import type { ClientBase } from 'pg';

/** Tables that name contents only so long as something else does: what pixels say, and what was baked from them. */
const REMEMBERED = new Set(['image_facts', 'baked_images']);

/**
 * Every content that anything in the database names, wherever it stands: in columns and deep inside documents. So nothing
 * that a later version keeps in another place is taken for refuse. `remembered` counts what is only known, too.
 */
export async function usedBlobs(client: ClientBase, { remembered = false } = {}): Promise<Set<string>> {
  const { rows: tables } = await client.query<{ name: string }>("select tablename as name from pg_tables where schemaname = 'public'");
  const used = new Set<string>();
  for (const { name } of tables) {
    if (!remembered && REMEMBERED.has(name)) continue;
    const { rows } = await client.query<{ hash: string }>(
      `select distinct m[1] as hash from "${name}" t, regexp_matches(t::text, '\\m[0-9a-f]{64}\\M', 'g') m`,
    );
    for (const { hash } of rows) used.add(hash);
  }
  return used;
}
