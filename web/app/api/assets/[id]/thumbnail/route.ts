import { KinkajouError } from '@kinkajou/core/errors';
import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { takeThumbnail } from '@/server/services/thumbnails';

const MOST_BYTES = 8 << 20;

/** A PNG as the raw body becomes the asset's picture on the shelf. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const bytes = new Uint8Array(await request.arrayBuffer());
    if (bytes.length > MOST_BYTES)
      throw new KinkajouError(
        'limit.fileBytes',
        'the picture is larger than 8 MB',
        {},
        'Take a smaller one.',
      );
    await takeThumbnail(await uuidParam(context), bytes);
  });
}

/** Lets the picture be drawn by itself again. */
export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await takeThumbnail(await uuidParam(context), null);
  });
}
