import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listDestinations, saveDestination } from '@/server/services/destinations';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  profile: Joi.object().unknown().required(),
  replaces: Joi.string().max(60).allow(null).default(null),
});

export async function GET() {
  return respond(async () => ({ destinations: await listDestinations() }));
}

/** Saves a destination of one's own; the profile is checked by the same rules as one from a file. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const body = (await readJson(request)) as { profile?: unknown };
    const { replaces } = check<{ replaces: string | null }>(schema, body);
    return { destinations: await saveDestination(body.profile, replaces) };
  });
}
