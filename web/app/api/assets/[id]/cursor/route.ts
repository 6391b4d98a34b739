import type { CursorMove } from '@kinkajou/core/edits/acts';
import Joi from 'joi';
import { answerFor, askerOf, versionField } from '@/server/asker';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { moveCursor } from '@/server/services/edits';

type Call = CursorMove & { version?: string };

const schema = Joi.object({
  by: Joi.number().integer().valid(-1, 1),
  to: Joi.number().integer().min(0),
  version: versionField,
}).xor('by', 'to');

/** Undo (`by: -1`), redo (`by: 1`) or a jump to a place in the log. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { version, ...move } = check<Call>(schema, await readJson(request));
    const id = await uuidParam(context);
    await moveCursor(id, move, askerOf(request, version));
    return answerFor(id, version);
  });
}
