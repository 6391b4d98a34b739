import { selectionRequest } from '@/server/http/schemas';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { keepSelection, listSelections, type SelectionEntry } from '@/server/services/selections';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ selections: await listSelections() }));
}

/** Keeps a selection under a name; one of that name is replaced. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return {
      selections: await keepSelection(
        check<Omit<SelectionEntry, 'id'>>(selectionRequest, await readJson(request)),
      ),
    };
  });
}
