import { hashParam, type RouteParams } from '@/server/params';
import { respond } from '@/server/respond';
import { PICTURE_SIZES, pictureOf } from '@/server/services/pictures';

/** An image of a parcel, shrunk to one of the known sizes. Content never changes under its hash. */
export async function GET(request: Request, context: RouteParams<'hash'>) {
  return respond(async () => {
    const hash = await hashParam(context);
    const asked = Number(new URL(request.url).searchParams.get('size') ?? PICTURE_SIZES[0]);
    const size =
      PICTURE_SIZES.find((existing) => existing >= asked) ?? PICTURE_SIZES[PICTURE_SIZES.length - 1];
    const { bytes, type } = await pictureOf(hash, size);
    return new Response(bytes as BodyInit, {
      headers: { 'content-type': type, 'cache-control': 'public, max-age=31536000, immutable' },
    });
  });
}
