import { DESTINATIONS, findDestination } from '@kinkajou/core/destinations/destinations';
import { type Destination, parseProfile } from '@kinkajou/core/destinations/profile';
import { KinkajouError } from '@kinkajou/core/errors';
import { asc, eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { ownDestinations } from '../db/schema.ts';
import { log } from '../log.ts';

/** A destination, and whether it is one of the house. */
export interface DestinationEntry {
  profile: Destination;
  /** Made by a person, and so theirs to change. */
  own: boolean;
}

/** Built-in destinations, then one's own by name. */
export async function listDestinations(): Promise<DestinationEntry[]> {
  const rows = await db().select().from(ownDestinations).orderBy(asc(ownDestinations.id));
  const own = rows.flatMap(({ id, profile }): DestinationEntry[] => {
    try {
      return [{ profile: parseProfile(profile), own: true }];
    } catch (error) {
      // One that a later version no longer takes must not hide the others.
      log.warn({ err: error, destination: id }, 'destination left out');
      return [];
    }
  });
  return [...DESTINATIONS.map((profile) => ({ profile, own: false })), ...own];
}

/** Throws `handoff.destination` where there is none of that id. */
export async function destinationById(id: string): Promise<Destination> {
  const builtIn = findDestination(id);
  if (builtIn) return builtIn;
  const [row] = await db().select().from(ownDestinations).where(eq(ownDestinations.id, id));
  if (!row) throw new KinkajouError('handoff.destination', `there is no destination "${id}"`);
  return parseProfile(row.profile);
}

/**
 * Saves a destination of one's own under its id; `replaces` is the id that it had before. Built-in ids are
 * taken.
 */
export async function saveDestination(input: unknown, replaces: string | null): Promise<DestinationEntry[]> {
  const profile = parseProfile(input);
  if (findDestination(profile.id))
    throw new KinkajouError(
      'destination.taken',
      `"${profile.id}" is built in`,
      {},
      'Give the copy an id of its own.',
    );
  if (profile.id !== replaces) {
    const [taken] = await db().select().from(ownDestinations).where(eq(ownDestinations.id, profile.id));
    if (taken)
      throw new KinkajouError(
        'destination.taken',
        `there is a destination "${profile.id}" already`,
        {},
        'Give it another id.',
      );
  }
  await db().transaction(async (tx) => {
    if (replaces !== null && replaces !== profile.id)
      await tx.delete(ownDestinations).where(eq(ownDestinations.id, replaces));
    await tx
      .insert(ownDestinations)
      .values({ id: profile.id, profile })
      .onConflictDoUpdate({ target: ownDestinations.id, set: { profile, updatedAt: new Date() } });
  });
  return listDestinations();
}

/** Removes a destination of one's own; handoffs that were made for it stay. */
export async function removeDestination(id: string): Promise<DestinationEntry[]> {
  await db().delete(ownDestinations).where(eq(ownDestinations.id, id));
  return listDestinations();
}
