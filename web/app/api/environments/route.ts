import { Readable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import Joi from 'joi';
import { check, checkHost, checkOrigin, respond } from '@/server/respond';
import { addEnvironment, listEnvironments } from '@/server/services/environments';

export const dynamic = 'force-dynamic';

const schema = Joi.object({ name: Joi.string().min(1).max(400).required() });

export async function GET(request: Request) {
  return respond(async () => {
    checkHost(request);
    return { environments: await listEnvironments() };
  });
}

/** One HDR or EXR as the raw body, its name in the query. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { name } = check<{ name: string }>(schema, Object.fromEntries(new URL(request.url).searchParams));
    return addEnvironment(
      name,
      request.body ? Readable.fromWeb(request.body as NodeStream) : Readable.from([]),
    );
  });
}
