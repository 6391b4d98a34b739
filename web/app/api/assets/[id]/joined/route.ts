import Joi from 'joi';
import type { JoinOrder } from '@/server/jobs/kinds';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { requestJoin } from '@/server/services/joining';

const place = Joi.number().min(-1e6).max(1e6);
const schema = Joi.object({
  from: Joi.string().uuid().required(),
  name: Joi.string().allow('').max(200).default(''),
  at: Joi.array().items(place).length(3).default([0, 0, 0]),
  turn: place.default(0),
  scale: Joi.number().greater(0).max(1e6).default(1),
});

/** A worker puts another asset's model beside this one's; the parcel that is answered tells how far it is. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return requestJoin(await uuidParam(context), check<JoinOrder>(schema, await readJson(request)));
  });
}
