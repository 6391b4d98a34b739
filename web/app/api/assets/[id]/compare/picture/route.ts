import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, respond } from '@/server/respond';
import { type CompareRequest, pictureOfSides } from '@/server/services/compare';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  a: Joi.string().max(60).required(),
  b: Joi.string().max(60).required(),
  material: Joi.string().max(4096).required(),
  limit: Joi.number().default(0),
  channel: Joi.string().max(40).required(),
  what: Joi.string().valid('a', 'b', 'difference').required(),
  scale: Joi.number().min(1).max(256).default(1),
});

/** One channel of a material on one side, or the difference, as a picture. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const expected = check<
      CompareRequest & { channel: string; what: 'a' | 'b' | 'difference'; scale: number }
    >(schema, Object.fromEntries(new URL(request.url).searchParams));
    const png = await pictureOfSides(await uuidParam(context), expected);
    return new Response(Buffer.from(png), {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=60' },
    });
  });
}
