import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { keepOnShelf, listMaterials } from '@/server/services/materials';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  assetId: Joi.string().uuid().required(),
  material: Joi.string().max(4096).required(),
  name: Joi.string().trim().min(1).max(120).required(),
});

export async function GET() {
  return respond(async () => ({ materials: await listMaterials() }));
}

/** Keeps a material of an asset on the material shelf. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { assetId, material, name } = check<{ assetId: string; material: string; name: string }>(
      schema,
      await readJson(request),
    );
    return { materials: await keepOnShelf(assetId, material, name) };
  });
}
