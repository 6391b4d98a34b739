import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listTemplates, saveTemplate } from '@/server/services/templates';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  assetId: Joi.string().uuid().required(),
  material: Joi.string().max(4096).required(),
  name: Joi.string().trim().min(1).max(120).required(),
});

export async function GET() {
  return respond(async () => ({ templates: await listTemplates() }));
}

/** Saves the slots of a material as a template. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { assetId, material, name } = check<{ assetId: string; material: string; name: string }>(
      schema,
      await readJson(request),
    );
    return { templates: await saveTemplate(assetId, material, name) };
  });
}
