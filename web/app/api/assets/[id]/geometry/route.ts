import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { reshapedGeometry } from '@/server/services/geometry';

export const dynamic = 'force-dynamic';

/** The geometry as edits have left it, as GLB; `?of=` names the state that the page shows. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const bytes = await reshapedGeometry(
      await uuidParam(context),
      new URL(request.url).searchParams.get('of') ?? '',
    );
    return new Response(bytes as BodyInit, {
      headers: {
        'content-type': 'model/gltf-binary',
        'x-content-type-options': 'nosniff',
        'cache-control': 'private, max-age=3600',
      },
    });
  });
}
