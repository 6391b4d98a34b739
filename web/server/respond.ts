import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import type Joi from 'joi';
import { log } from './log.ts';

const STATUS: Record<string, number> = { notFound: 404, forbidden: 403, conflict: 409, internal: 500 };

/** Runs a route's work; errors become JSON with code, message, place and hint. */
export async function respond(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (error) {
    const typed = toKinkajouError(error);
    if (!(error instanceof KinkajouError)) log.error({ err: error }, 'request failed');
    return Response.json({ error: { ...typed.toJSON(), text: typed.toText() } }, { status: STATUS[typed.code] ?? 400 });
  }
}

/** A request that changes something must come from our own pages. Throws `forbidden` otherwise. */
export function checkOrigin(request: Request): void {
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  const sameSite = site === null || site === 'same-origin' || site === 'none';
  const host = request.headers.get('host');
  const sameHost = origin === null || (host !== null && URL.canParse(origin) && new URL(origin).host === host);
  if (!sameSite || !sameHost) throw new KinkajouError('forbidden', 'this request did not come from a page of Kinkajou');
}

/** Validates outside input with Joi. Throws `request.invalid` naming the field. */
export function check<T>(schema: Joi.Schema, input: unknown): T {
  const { error, value } = schema.validate(input, { stripUnknown: true });
  if (error) throw new KinkajouError('request.invalid', error.message);
  return value as T;
}

/** The body as JSON. Throws `request.invalid` when it is none. */
export async function readJson(request: Request): Promise<unknown> {
  try {
    return await request.json();
  } catch {
    throw new KinkajouError('request.invalid', 'the request holds no JSON');
  }
}

export function notFound(what: string): KinkajouError {
  return new KinkajouError('notFound', `there is no such ${what}; it may have been removed`);
}
