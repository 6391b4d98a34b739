import { asc, eq, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { selections } from '../db/schema.ts';
import type { ShelfFilter } from '../wire/shelf.ts';

/** A selection that is kept under a name. */
export interface SelectionEntry {
  id: string;
  name: string;
  filter: ShelfFilter;
  /** Null for whatever the filters find. */
  assets: string[] | null;
}

/** Kept selections by name. */
export async function listSelections(): Promise<SelectionEntry[]> {
  return db()
    .select({
      id: selections.id,
      name: selections.name,
      filter: selections.filter,
      assets: selections.assets,
    })
    .from(selections)
    .orderBy(asc(sql`lower(${selections.name})`));
}

/** Keeps a selection; one of the same name is replaced. */
export async function keepSelection(given: Omit<SelectionEntry, 'id'>): Promise<SelectionEntry[]> {
  const { filter, assets } = given;
  await db()
    .insert(selections)
    .values(given)
    .onConflictDoUpdate({ target: selections.name, set: { filter, assets } });
  return listSelections();
}

/** Forgets a selection; resolves to those that are left. */
export async function removeSelection(id: string): Promise<SelectionEntry[]> {
  await db().delete(selections).where(eq(selections.id, id));
  return listSelections();
}
