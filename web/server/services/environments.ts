import { KinkajouError } from '@kinkajou/core/errors';
import { probeImage } from '@kinkajou/core/images/probe';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { asc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { environments } from '../db/schema.ts';

/** An uploaded environment. */
export type EnvironmentRow = typeof environments.$inferSelect;

/** Uploaded environments by name. */
export function listEnvironments(): Promise<EnvironmentRow[]> {
  return db().select().from(environments).orderBy(asc(environments.name));
}

/**
 * Keeps an uploaded picture of light. Throws `environment.type` for anything but HDR and EXR, and the limits'
 * errors.
 */
export async function addEnvironment(name: string, body: NodeJS.ReadableStream): Promise<EnvironmentRow> {
  const limits = limitsFromEnvironment();
  const { sha256 } = await blobs.putStream(body, name, limits.fileBytes);
  const { format } = await probeImage(await blobs.get(sha256), name, limits);
  if (format !== 'hdr' && format !== 'exr')
    throw new KinkajouError(
      'environment.type',
      `it is ${format}, which holds no light`,
      { file: name },
      'Use an HDR or EXR in latitude and longitude.',
    );
  const [row] = await db()
    .insert(environments)
    .values({ name, sha256, type: format })
    .onConflictDoUpdate({ target: environments.sha256, set: { name } })
    .returning();
  return row;
}

/** Removes an environment; resolves to those that are left. */
export async function removeEnvironment(id: number): Promise<EnvironmentRow[]> {
  await db().delete(environments).where(eq(environments.id, id));
  return listEnvironments();
}
