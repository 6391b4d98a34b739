import { createHash, randomBytes } from 'node:crypto';
import { KinkajouError } from '@kinkajou/core/errors';
import { desc, eq } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { tokens } from '../db/schema.ts';

/** A token without its secret. */
export interface TokenEntry {
  id: string;
  name: string;
  createdAt: string;
  lastUsedAt: string | null;
}

/** What scripts may show instead of a page. Only its hash is kept; it is told once. */
export async function makeToken(name: string): Promise<{ token: string; tokens: TokenEntry[] }> {
  const token = `kinkajou_${randomBytes(32).toString('base64url')}`;
  await db()
    .insert(tokens)
    .values({ name, hash: hashOf(token) });
  return { token, tokens: await listTokens() };
}

/** Tokens, the latest first. */
export async function listTokens(): Promise<TokenEntry[]> {
  const rows = await db().select().from(tokens).orderBy(desc(tokens.createdAt));
  return rows.map(({ id, name, createdAt, lastUsedAt }) => ({
    id,
    name,
    createdAt: createdAt.toISOString(),
    lastUsedAt: lastUsedAt?.toISOString() ?? null,
  }));
}

/** Takes a token back; resolves to those that are left. */
export async function revokeToken(id: string): Promise<TokenEntry[]> {
  await db().delete(tokens).where(eq(tokens.id, id));
  return listTokens();
}

/** Throws `unauthorized` unless the request carries a token that holds. */
export async function checkToken(request: Request): Promise<void> {
  const [, token] = /^Bearer (\S+)$/i.exec(request.headers.get('authorization') ?? '') ?? [];
  const [row] = token
    ? await db()
        .update(tokens)
        .set({ lastUsedAt: new Date() })
        .where(eq(tokens.hash, hashOf(token)))
        .returning({ id: tokens.id })
    : [];
  if (!row) {
    const hint = 'Make one under Settings and send it as "Authorization: Bearer TOKEN".';
    throw new KinkajouError(
      'unauthorized',
      token ? 'this token does not hold' : 'a token is needed',
      {},
      hint,
    );
  }
}

function hashOf(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
