import { folderRequest } from '@/server/http/schemas';
import { type RouteParams, uuidParam } from '@/server/params';
import { bodyOf, check, checkOrigin, readJson, respond } from '@/server/respond';
import { packagesOfRun } from '@/server/services/runPackages';
import { requestWriting } from '@/server/services/writePackages';

export const dynamic = 'force-dynamic';

/** All packages of a run as one zip. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const { fileName, stream } = await packagesOfRun(await uuidParam(context));
    return new Response(bodyOf(stream), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      },
    });
  });
}

/** Has them written into a folder on the server's disk. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { folder } = check<{ folder: string }>(folderRequest, await readJson(request));
    return { job: await requestWriting(await uuidParam(context), folder) };
  });
}
