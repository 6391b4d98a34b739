import { ReadableStream as WebStream } from 'node:stream/web';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import type Joi from 'joi';
import { HOST_HINT, isKnownHost } from './doors.ts';
import { log } from './log.ts';

const STATUS: Record<string, number> = {
  notFound: 404,
  unauthorized: 401,
  forbidden: 403,
  conflict: 409,
  internal: 500,
};

/** Runs a route's work; errors become JSON with code, message, place and hint. */
export async function respond(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? { ok: true });
  } catch (error) {
    const typed = toKinkajouError(error);
    if (!(error instanceof KinkajouError)) log.error({ err: error }, 'request failed');
    return Response.json(
      { error: { ...typed.toJSON(), text: typed.toText() } },
      { status: STATUS[typed.code] ?? 400 },
    );
  }
}

/** What a route sends while it is made; where whoever asked goes away, nothing more of it is made. */
export function bodyOf(stream: NodeJS.ReadableStream): BodyInit {
  return WebStream.from(stream) as ReadableStream;
}

/** A request must be for a name of ours. Throws `forbidden` otherwise. */
export function checkHost(request: Request): void {
  if (!isKnownHost(request.headers.get('host')))
    throw new KinkajouError('forbidden', 'this server does not go by that name', {}, HOST_HINT);
}

/** A request that changes something must come from our own pages. Throws `forbidden` otherwise. */
export function checkOrigin(request: Request): void {
  checkHost(request);
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  const sameSite = site === null || site === 'same-origin' || site === 'none';
  const host = request.headers.get('host');
  const sameHost =
    origin === null || (host !== null && URL.canParse(origin) && new URL(origin).host === host);
  if (!sameSite || !sameHost)
    throw new KinkajouError('forbidden', 'this request did not come from a page of Kinkajou');
}

/** Validates outside input with Joi. Throws `request.invalid` naming the field. */
export function check<T>(schema: Joi.Schema, input: unknown): T {
  const { error, value } = schema.validate(input, { stripUnknown: true });
  if (error) throw new KinkajouError('request.invalid', error.message);
  return value as T;
}

/** Longer bodies are no request of a page: files go another way. */
const MOST_JSON = 8 << 20;

/** The body as JSON. Throws `request.invalid` when it is none, and `limit.request` when it is too long. */
export async function readJson(request: Request): Promise<unknown> {
  const tooLong = new KinkajouError(
    'limit.request',
    'the request is longer than 8 MB',
    {},
    'Send it in several.',
  );
  if (Number(request.headers.get('content-length') ?? 0) > MOST_JSON) throw tooLong;
  const text = await request.text();
  if (text.length > MOST_JSON) throw tooLong;
  try {
    return JSON.parse(text);
  } catch {
    throw new KinkajouError('request.invalid', 'the request holds no JSON', {}, 'Load the page again.');
  }
}

/** The error for a thing that is not there, or no longer. */
export function notFound(what: string): KinkajouError {
  return new KinkajouError('notFound', `there is no such ${what}; it may have been removed`);
}
