import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { moveCursor } from '@/server/services/edits';

const schema = Joi.object({ by: Joi.number().integer().valid(-1, 1), to: Joi.number().integer().min(0) }).xor('by', 'to');

/** Undo (`by: -1`), redo (`by: 1`) or a jump to a place in the log. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return moveCursor(await uuidParam(context), check<{ by: number } | { to: number }>(schema, await readJson(request)));
  });
}
