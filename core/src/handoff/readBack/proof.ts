import { describeImages } from '../../asset/describeSource.ts';
import { tagAsUsdReads } from '../../asset/unstatedTags.ts';
import { compareModels, type ModelSide } from '../../compare/compareModels.ts';
import { type Difference, isDifferent } from '../../compare/difference.ts';
import type { MaterialDifference } from '../../compare/verdict.ts';
import { DecodedImages } from '../../images/decodedImages.ts';
import { readWhole } from '../../inspect.ts';
import type { FileSource } from '../../parcel/fileSource.ts';
import { type SceneDocument, Y_UP, Z_UP } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { complementUse } from '../../scene/mapUse.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import { scalarValue } from '../../scene/material.ts';
import { usedSlots } from '../../scene/materialForAll.ts';
import { exponentOfMaterial } from '../../scene/shading.ts';
import type { HandoffPlan, PlannedMaterial } from '../plan/plan.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import type { Sheet } from '../write/sheet.ts';
import { applySheet, type Contradiction, type SheetWord } from './applySheet.ts';
import { explained, lastingLosses } from './exemptions.ts';

/** Whether the model that was read differs in a place that no loss exempts. */
export type ModelVerdict = 'same' | 'different';

/**
 * What reading a package back proves: as its receiver opens it, and with the words of the sheet for what
 * formats cannot say.
 */
export interface Proof {
  /** The model file and its images by the rules of its format, and nothing else. */
  model: ModelVerdict;
  /** The same with the sheet's words followed. */
  sheet: ModelVerdict;
  /** Every word that the sheet adds. */
  words: SheetWord[];
  /** Of both readings, with the loss that explains each; those of the plain reading first. */
  differences: Difference[];
  channels: MaterialDifference[];
}

/** A written model as its receiver opens it. */
export interface FoundModel {
  side: ModelSide;
  sheet: Sheet;
}

/** What a written model is held against. */
export interface Expected {
  side: ModelSide;
  plan: HandoffPlan;
  /** Names of each material's copies by its key. */
  copies: ReadonlyMap<string, readonly string[]>;
  /** Images that were decoded before, of either side. */
  decoded?: DecodedImages;
}

/** Places along the longer side of the grid. */
const GRID = 24;
const STEPS = { 8: 1.6 / 255, 16: 1.6 / 4096, half: 1.6 / 512, float: 1e-4 } as const;

/**
 * Compares a written model with what it was made from. Losses that the plan tells exempt just what they are
 * about.
 */
export async function proveModel(
  { side, plan, copies, decoded = new DecodedImages() }: Expected,
  actual: FoundModel,
): Promise<Proof> {
  const planned = new Map(plan.materials.map((material) => [material.key, material]));
  const options = {
    grid: GRID,
    names: true,
    decoded,
    namesOf: ({ key, name }: Material) => copies.get(key) ?? [planned.get(key)?.name ?? name],
    limitOf: ({ key }: Material, channel: string) => limitOf(planned.get(key), channel),
    // Most materials say the same with and without the sheet.
    looked: new Map(),
  };
  const expected = {
    ...side,
    materials: side.materials.map((material) => byConvention(material, planned.get(material.key), plan)),
  };
  const names = new Map(
    side.materials.flatMap(({ key, name }) =>
      [key, ...(copies.get(key) ?? [])].map((alias) => [alias, name]),
    ),
  );
  const titles = new Map(
    side.materials.flatMap((material) =>
      options.namesOf(material).map((written) => [written, material.name]),
    ),
  );
  const losses: Loss[] = [...plan.losses, ...plan.unsaid];
  const plain = await compareModels(expected, actual.side, options);
  const read = readBySheet(actual);
  const sheet = await compareModels(expected, read.side, { ...options, geometry: read.geometry });
  const asItStands = explained(plain.differences, losses, names);
  const followed = [
    ...read.contradictions.map(({ word, difference: found }): Difference => {
      const difference = { ...found, material: titles.get(found.material ?? '') ?? found.material };
      if (word !== 'sides') return difference;
      // Sides alone may have been told as a loss.
      const [{ exempt }] = explained([{ ...difference, code: 'sides' }], losses, names);
      return { ...difference, exempt };
    }),
    ...explained(sheet.differences, lastingLosses(losses), names),
  ];
  const more = followed.filter(
    (difference) =>
      !asItStands.some((other) => isSamePlace(difference, other) && other.exempt === difference.exempt),
  );
  return {
    model: isDifferent(asItStands) ? 'different' : 'same',
    sheet: isDifferent(followed) ? 'different' : 'same',
    words: read.words,
    differences: [...asItStands, ...more],
    channels: sheet.channels,
  };
}

const GLOSS: readonly ChannelName[] = ['glossiness', 'roughness'];

/** What a destination takes under another name is expected there: gloss as the strength of a highlight. */
export function byConvention(
  material: Material,
  planned: PlannedMaterial | undefined,
  { destination, patched }: HandoffPlan,
): Material {
  if (!planned || patched) return material;
  const channels = { ...material.channels };
  let { exponent, workflow } = material;
  if ((destination.writeAs ?? destination.workflow) === 'legacy') {
    // Metalness has no place and is told; roughness by value is an exponent; classic highlights are not what
    // metal/rough shading reads, its tint is.
    delete channels.metalness;
    if (destination.workflow === 'metalRough')
      for (const channel of ['specular', 'specularColor'] as const)
        if (!channels[channel]?.map && !(channel === 'specularColor' && workflow === 'metalRough'))
          delete channels[channel];
  }
  for (const { channel, as, invert } of destination.maps.flatMap(({ components }) => components)) {
    const input = planned.inputs[channel];
    if (!as || !input) continue;
    const value = scalarValue(input.value);
    const complement = input.map
      ? { value: 1, map: complementUse(value, input.map) }
      : { value: 1 - value, map: null };
    channels[as] = {
      ...(invert ? complement : { ...input, value }),
      source: { from: 'file', detail: destination.id },
    };
    // An image goes out under one name alone; a value is also the exponent.
    if (!GLOSS.includes(channel)) continue;
    workflow = destination.writeAs ?? destination.workflow;
    exponent = input.map ? exponent : exponentOfMaterial(material);
    for (const name of GLOSS) delete channels[name];
  }
  return { ...material, channels, exponent, workflow };
}

/** One proof of the models of a package. */
export function joinProofs(proofs: readonly Proof[]): Proof {
  const worst = (verdicts: ModelVerdict[]): ModelVerdict =>
    verdicts.includes('different') ? 'different' : 'same';
  return {
    model: worst(proofs.map(({ model }) => model)),
    sheet: worst(proofs.map(({ sheet }) => sheet)),
    words: proofs.flatMap(({ words }) => words),
    differences: proofs.flatMap(({ differences }) => differences),
    channels: proofs.flatMap(({ channels }) => channels),
  };
}

/** The model followed by the sheet. Of OBJ, which states neither unit nor axes, its geometry too. */
export function readBySheet({ side, sheet }: FoundModel): {
  side: ModelSide;
  geometry: boolean;
  words: SheetWord[];
  contradictions: Contradiction[];
} {
  const { format } = side.document;
  const { materials, words, contradictions } = applySheet(side.materials, side.images, sheet, format);
  const document = format === 'obj' ? inSheetSpace(side.document, sheet) : side.document;
  return {
    side: { ...side, document, materials },
    geometry: format === 'obj',
    words,
    contradictions: contradictions.filter((one) => !isUnstated(one, side.document)),
  };
}

/** USD states sides by part: of a material that no face has it says nothing. */
function isUnstated({ word, difference: { material } }: Contradiction, document: SceneDocument): boolean {
  if (document.format !== 'usd' || word !== 'sides') return false;
  return !document.nodes.some((node) =>
    usedSlots(node, document).some(
      (slot) => document.materials[node.materials[slot] ?? -1]?.name === material,
    ),
  );
}

/** OBJ states neither axes nor unit; the sheet does. */
export function inSheetSpace(document: SceneDocument, { upAxis, metresPerUnit }: Sheet): SceneDocument {
  return { ...document, axes: upAxis === 'Z' ? Z_UP : Y_UP, metresPerUnit, unitStated: true };
}

/** A model of a package with its images, as its format says. */
export async function sideOf(files: FileSource, model: string): Promise<ModelSide> {
  const { document, images, read } = await readWhole(files, model);
  const paths = images.map(({ path }) => path);
  const described = describeImages(document, model, paths);
  const materials =
    document.format === 'usd' ? tagAsUsdReads(document.materials, described, images) : document.materials;
  return { document, materials, images: described, read };
}

/** Whether two differences are the same kind in the same material, channel and part. */
export function isSamePlace(a: Difference, b: Difference): boolean {
  return a.code === b.code && a.material === b.material && a.channel === b.channel && a.part === b.part;
}

/**
 * How far a channel may be off by the depth of the image that carries it; undefined where no image was made
 * for it.
 */
function limitOf(planned: PlannedMaterial | undefined, channel: string): number | undefined {
  const image = Object.values(planned?.images ?? {}).find(
    (plannedImage) => plannedImage !== undefined && carries(plannedImage, channel),
  );
  if (!image) return undefined;
  const colour = image.components.length >= 3 && image.map.space !== 'data';
  return image.copyOf ? STEPS[8] : STEPS[image.map.depth] * (colour ? 2 : 1);
}

function carries({ components }: PlannedImage, channel: string): boolean {
  return components.some(
    (component) =>
      component.from === 'image' &&
      (component.channel === 'glossiness' ? 'roughness' : component.channel) === channel,
  );
}
