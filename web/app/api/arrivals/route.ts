import { Readable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { arrivalQuery } from '@/server/http/schemas';
import { check, checkHost, respond } from '@/server/respond';
import { type ArrivalRequest, arrivalReport, takeArrival } from '@/server/services/arrivals';
import { checkToken } from '@/server/services/tokens';

export const dynamic = 'force-dynamic';

/**
 * A zip or a model as the raw body, by a script that carries a token; what is to be done to it in the query.
 */
export async function POST(request: Request) {
  return respond(async () => {
    checkHost(request);
    await checkToken(request);
    const query = check<ArrivalRequest>(arrivalQuery, Object.fromEntries(new URL(request.url).searchParams));
    const body = request.body ? Readable.fromWeb(request.body as NodeStream) : Readable.from([]);
    const id = await takeArrival(query, body);
    return Response.json(await arrivalReport(id), {
      status: 202,
      headers: { location: `/api/arrivals/${id}` },
    });
  });
}
