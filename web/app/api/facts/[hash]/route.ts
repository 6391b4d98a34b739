import { hashParam, type RouteParams } from '@/server/params';
import { respond } from '@/server/respond';
import { factsOf } from '@/server/services/imageFacts';

/** What is known of the pixels of an image; null until a worker has looked. */
export async function GET(_request: Request, context: RouteParams<'hash'>) {
  return respond(async () => ({ facts: await factsOf(await hashParam(context)) }));
}
