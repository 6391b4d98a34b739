import type { RouteParams } from '@/server/params';
import { respond } from '@/server/respond';
import { helpPicture } from '@/server/services/helpPages';

/** A picture of the guide. */
export async function GET(_request: Request, { params }: RouteParams<'name'>) {
  return respond(async () => {
    const bytes = await helpPicture((await params).name);
    return new Response(bytes as BodyInit, {
      headers: { 'content-type': 'image/png', 'cache-control': 'public, max-age=3600' },
    });
  });
}
