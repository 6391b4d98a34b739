import { Readable } from 'node:stream';
import { blobs } from '@/server/blobs';
import { type RouteParams, uuidParam } from '@/server/params';
import { notFound, respond } from '@/server/respond';
import { findHandoff } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

/** The finished package as a zip. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const handoff = await findHandoff(await uuidParam(context));
    if (!handoff.zip) throw notFound('package');
    const body = Readable.toWeb(Readable.from(blobs.stream(handoff.zip))) as ReadableStream;
    return new Response(body, {
      headers: {
        'content-type': 'application/zip',
        'content-length': String(handoff.zipSize),
        'content-disposition': `attachment; filename="${handoff.fileName}"`,
      },
    });
  });
}
