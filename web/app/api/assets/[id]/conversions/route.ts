import { SPACES } from '@kinkajou/core/colour/spaces';
import Joi from 'joi';
import type { ConversionRequest } from '@/server/db/rowTypes';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listConversions, requestConversion } from '@/server/services/conversions';

const space = Joi.string()
  .valid(...Object.keys(SPACES))
  .required();
const schema = Joi.object({
  image: Joi.string().max(4096).required(),
  from: space,
  to: space,
  exponent: Joi.number().min(0.1).max(10).required(),
});

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => ({ conversions: await listConversions(await uuidParam(context)) }));
}

/** Converts an image of the parcel to another colour space, as a new image beside it. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return {
      job: await requestConversion(
        await uuidParam(context),
        check<ConversionRequest>(schema, await readJson(request)),
      ),
    };
  });
}
