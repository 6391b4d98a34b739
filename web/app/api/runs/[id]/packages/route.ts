import { type RouteParams, uuidParam } from '@/server/params';
import { bodyOf, respond } from '@/server/respond';
import { packagesOfRun } from '@/server/services/runPackages';

export const dynamic = 'force-dynamic';

/** All packages of a run as one zip. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const { fileName, stream } = await packagesOfRun(await uuidParam(context));
    return new Response(bodyOf(stream), {
      headers: { 'content-type': 'application/zip', 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}` },
    });
  });
}
