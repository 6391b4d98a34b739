import { checkOrigin, readJson, respond } from '@/server/respond';
import { listRulebooks, saveRulebook } from '@/server/services/rulebooks';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ rulebooks: await listRulebooks() }));
}

/** Keeps a new rulebook; it is checked by the same rules as one from a file. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return saveRulebook(await readJson(request), null);
  });
}
