import { parseEdit } from '@kinkajou/core/edits/schema';
import Joi from 'joi';
import { answerFor, askerOf, versionField } from '@/server/asker';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { addEdits } from '@/server/services/edits';
import type { BenchDelta } from '@/server/wire/bench';

interface Call {
  edits: unknown[];
  /** The version that the page has seen. */
  version?: string;
  /** The same when a page sends them again that got no answer. */
  request?: string;
}

const schema = Joi.object({
  edits: Joi.array().items(Joi.object().unknown()).min(1).max(5000).required(),
  version: versionField,
  request: Joi.string().uuid(),
});

/** Adds the edits of one act. The answer also names the edits that had been undone and are gone now. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { edits, version, request: job } = check<Call>(schema, await readJson(request));
    const id = await uuidParam(context);
    const parsed = edits.map(parseEdit);
    const { dropped, seq } = await addEdits(id, parsed, {
      ...askerOf(request, version),
      ...(job && { job }),
    });
    return { ...withoutSent(await answerFor(id, version), seq, parsed.length), dropped, seq };
  });
}

/** What the page has just sent is not sent back. */
function withoutSent<T extends object>(answer: T, seq: number, count: number): T {
  if (!('delta' in answer)) return answer;
  const { delta } = answer as { delta: BenchDelta };
  const put = delta.lists.log?.put.map(({ index, item }) => ({
    index,
    item: item.seq >= seq && item.seq < seq + count ? { ...item, edit: null } : item,
  }));
  return put
    ? { ...answer, delta: { ...delta, lists: { ...delta.lists, log: { ...delta.lists.log, put } } } }
    : answer;
}
