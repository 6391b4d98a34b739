import { randomBytes } from 'node:crypto';
import { type NextRequest, NextResponse } from 'next/server';
import { contentPolicy, HEADERS, HOST_HINT, isKnownHost } from './server/doors.ts';

/**
 * Every request passes here: only those for a name of ours go on, and every answer says what its page may
 * load.
 */
export function proxy(request: NextRequest): NextResponse {
  if (!isKnownHost(request.headers.get('host'))) {
    const error = {
      code: 'forbidden',
      message: 'this server does not go by that name',
      place: {},
      hint: HOST_HINT,
    };
    return NextResponse.json(
      { error: { ...error, text: `${error.message}. ${error.hint}` } },
      { status: 421, headers: HEADERS },
    );
  }
  const nonce = randomBytes(16).toString('base64');
  const policy = contentPolicy(nonce, process.env.NODE_ENV === 'development');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value);
  return response;
}

/**
 * Bodies that are streamed to disk would be held in memory on their way through here; their routes look at
 * the name themselves.
 */
export const config = { matcher: '/((?!api/parcels/[^/]+/files$|api/environments$|api/arrivals$).*)' };
