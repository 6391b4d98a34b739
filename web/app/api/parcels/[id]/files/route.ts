import { Readable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import Joi from 'joi';
import { publish } from '@/server/events';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, respond } from '@/server/respond';
import { addParcelFile } from '@/server/services/parcels';

const schema = Joi.object({
  path: Joi.string().min(1).max(4096).required(),
  modified: Joi.number().integer().min(0),
});

/** One file as the raw body, its path and time in the query. */
export async function PUT(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const id = await uuidParam(context);
    const query = Object.fromEntries(new URL(request.url).searchParams);
    const { path, modified } = check<{ path: string; modified?: number }>(schema, query);
    const body = request.body ? Readable.fromWeb(request.body as NodeStream) : Readable.from([]);
    await addParcelFile(id, path, modified === undefined ? null : new Date(modified), body);
    await publish({ topic: 'parcel', id });
  });
}
