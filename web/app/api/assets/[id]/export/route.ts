import { type RouteParams, uuidParam } from '@/server/params';
import { bodyOf, respond } from '@/server/respond';
import { exportAsset } from '@/server/services/exported';

export const dynamic = 'force-dynamic';

/** The asset as one file: its parcel and its edit log. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const { fileName, stream } = await exportAsset(await uuidParam(context));
    return new Response(bodyOf(stream), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="asset.zip"; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      },
    });
  });
}
