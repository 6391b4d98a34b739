import { streamBlob } from '@/server/blobs';
import { type RouteParams, uuidParam } from '@/server/params';
import { bodyOf, notFound, respond } from '@/server/respond';
import { findHandoff } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

/** The finished package as a zip. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const handoff = await findHandoff(await uuidParam(context));
    if (!handoff.zip) throw notFound('package');
    const body = bodyOf(await streamBlob(handoff.zip));
    return new Response(body, {
      headers: {
        'content-type': 'application/zip',
        'content-length': String(handoff.zipSize),
        'content-disposition': `attachment; filename="${handoff.fileName}"`,
      },
    });
  });
}
