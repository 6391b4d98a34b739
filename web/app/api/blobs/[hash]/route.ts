import { blobs } from '@/server/blobs';
import { hashParam, type RouteParams } from '@/server/params';
import { notFound, respond } from '@/server/respond';

/** Geometry for the viewport and drawn thumbnails. Content never changes under its hash. */
export async function GET(_request: Request, context: RouteParams<'hash'>) {
  return respond(async () => {
    const hash = await hashParam(context);
    if (!(await blobs.has(hash))) throw notFound('blob');
    const bytes = await blobs.get(hash);
    const png = bytes[0] === 0x89 && bytes[1] === 0x50;
    return new Response(bytes as BodyInit, {
      headers: {
        'content-type': png ? 'image/png' : 'application/octet-stream',
        'x-content-type-options': 'nosniff',
        'cache-control': 'public, max-age=31536000, immutable',
      },
    });
  });
}
