import { channelInWords } from './channelTitles.ts';
import type { ChannelName } from './material.ts';

/**
 * What a written model, or a plan, cannot hold of what was given. Sentences are made by {@link lossInWords}.
 */
export interface Loss {
  code: LossCode;
  /** Key of the material that it is about. */
  material?: string;
  channel?: ChannelName;
  part?: string;
  /** Names of all parts that it is about, where they are several and `part` tells some of them. */
  parts?: readonly string[];
  /** A number, or a name, that belongs into the sentence. */
  count?: number;
  detail?: string;
}

const SENTENCES = {
  'map.noPlace': ({ channel, detail }) => `the map of ${channelInWords(channel)} has no place in ${detail}`,
  'value.noPlace': ({ channel, detail }) => `${channelInWords(channel)} has no place in ${detail}`,
  'glass.thickness': ({ detail }) => `glass is a solid body, whose thickness has no place in ${detail}`,
  'cloth.roughness': ({ detail }) => `how rough cloth is has no place in ${detail}`,
  'map.missing': ({ channel }) =>
    `the image of ${channelInWords(channel)} is missing; its value stands alone`,
  'map.ownReading': ({ channel }) =>
    `${channelInWords(channel)} has its own UV set, transform, wrap or filter, which one packed image cannot keep`,
  'map.apart': ({ channel }) =>
    `${channelInWords(channel)} is read by another UV set, transform, wrap or filter than what it is packed with, so that it goes out as an image of its own`,
  'made.mean': ({ channel, detail }) =>
    `${channelInWords(channel)} is made with ${channelInWords(detail as ChannelName)} by its mean, since its image lies elsewhere, by UV set or transform`,
  'made.edges': ({ channel, detail }) =>
    `${channelInWords(channel)} is made with ${channelInWords(detail as ChannelName)}, whose image goes on in another way beyond its edges`,
  'made.colours': ({ channel }) =>
    `${channelInWords(channel)} is made without the colours of points, which change what metals reflect`,
  'image.missing': ({ detail }) => `the image ${detail} is missing; the model names it all the same`,
  'image.beside': ({ detail }) => `${detail} cannot carry images; they lie beside the model`,
  'value.floor': ({ channel, detail }) =>
    `${channelInWords(channel)} goes out as ${detail}, where the exponents of classic materials end`,
  'colour.cut': ({ channel }) =>
    `colours of ${channelInWords(channel)} that lie beyond Rec.709 or are brighter than white are cut, since integers hold no others`,
  'height.cut': () => 'heights below the middle have no place where the middle is 0 and are cut',
  'tile.across': ({ count = 1 }) =>
    `${count} ${count === 1 ? 'face reaches' : 'faces reach'} over the border of a tile, where ${count === 1 ? 'its' : 'their'} image repeats`,
  'parts.hidden': ({ part, count = 1, detail }) =>
    `${part}: hidden in the source; ${detail} shows ${count === 1 ? 'it' : 'them'}`,
  'parts.cages': ({ part, count = 1, detail }) =>
    `${part}: ${count === 1 ? 'a cage of a smooth surface' : 'cages of smooth surfaces'} (subdivision); ${detail} has the ${count === 1 ? 'cage' : 'cages'} alone`,
  'parts.oneSided': ({ part, count = 1, detail }) =>
    `${part}: one side shows, of other parts with the same material both; ${detail} shows both of ${count === 1 ? 'it' : 'them'}, too`,
  'shape.clips': ({ part, count = 2 }) => `${part}: the clips of its shapes cannot drive ${count} pieces`,
  'part.notMerged': ({ part }) =>
    `${part}: a part that is skinned or has shapes cannot be merged with others; it stays by itself`,
  'part.leftMotion': ({ part, detail }) => `${part}: it does not follow the motion of ${detail} any more`,
  'part.mergedMotion': ({ part }) => `${part}: the motion of parts that were merged into it is left out`,
  'part.skinnedPivot': ({ part }) => `${part}: a skinned part keeps its pivot`,
  'part.skinnedPlace': ({ part }) => `${part}: a skinned part stands where its joints do, and stays`,
  'part.pivotMotion': ({ part }) => `${part}: its clips turn it about the new pivot`,
  'part.notApplied': ({ part }) => `${part}: its transform is moved by clips or a skin and stays`,
  'part.shearedMotion': ({ part }) =>
    `${part}: its motion is left out, since it would be sheared where it hangs now`,
  'up.fixed': () => 'glTF is always Y up',
  'patch.missed': ({ detail = '' }) => detail,
  'format.space': ({ detail }) => `${detail} has no word for colour spaces; each map's is in its table`,
  'format.direction': ({ detail }) => `${detail} has no word for which way the green of a normal map points`,
  'format.alpha': ({ detail }) => `${detail} has no word for cut-outs and glass`,
  'format.filter': ({ detail }) => `${detail} has no word for texels that are taken one by one`,
  'format.sides': ({ detail }) => `${detail} has no word for faces that show on both sides`,
  'format.height': ({ detail }) => `${detail} has no word for the unit and the middle of heights`,
  'format.unit': ({ detail }) => `${detail} states neither unit nor axes`,
  'fbx.inverted': () => 'FBX cannot say that a map is read inverted or scaled',
  'fbx.component': () => 'FBX cannot say which component of a map is read',
  'fbx.mirror': () => 'FBX has no mirrored wrap; such maps repeat',
  'part.noMaterial': ({ part, detail }) =>
    `${part}: readers of ${detail} give faces without a material those of others beside them; they have a plain one called no_material`,
  'fbx.onBone': ({ part }) =>
    `${part} is a bone that carries something, which readers of FBX pass over; it hangs below the bone`,
  'fbx.shear': () => 'FBX cannot say a sheared transform',
  'light.fading': ({ part }) =>
    `${part}: a light that does not fade by the square of the distance does so elsewhere than in FBX`,
  'fbx.dome': () => 'FBX has no environment light; it is left out',
  'sky.missing': ({ detail }) =>
    `the picture ${detail} of an environment is missing or broken; its light is even`,
  'mtl.noWord': ({ channel }) => `MTL has no word for ${channelInWords(channel)}`,
  'mtl.noMapWord': ({ channel }) => `MTL has no word for maps of ${channelInWords(channel)}`,
  'mtl.placing': ({ channel, detail }) => `MTL cannot say ${detail} of the map of ${channelInWords(channel)}`,
  'obj.noMaterial': ({ part }) =>
    `${part}: OBJ gives faces without a material the one before; they have a plain one called no_material`,
  'obj.hierarchy': () => 'OBJ has no hierarchy; parts stand where they are',
  'obj.cameras': () => 'OBJ has no cameras',
  'obj.lights': () => 'OBJ has no lights',
  'obj.motion': () => 'OBJ has no motion',
  'obj.skins': () => 'OBJ has no skins',
  'obj.uvSets': () => 'OBJ has one UV set; further sets are left out',
  'obj.morphs': () => 'OBJ has no morph targets',
  'obj.colours': () => 'OBJ has one colour per point; further colours are left out',
  'obj.tangents': ({ part }) => `${part}: OBJ has no tangents; readers make their own of UVs and normals`,
  'obj.alpha': ({ part }) => `${part}: OBJ has no alpha in the colours of points`,
  'usd.noInput': ({ channel }) => `UsdPreviewSurface has no input for ${channelInWords(channel)}`,
  'usd.luminance': () => 'USD cannot read the luminance of a map; its red stands in',
  'usd.space': ({ detail }) =>
    `UsdPreviewSurface has no word for the colour space ${detail}; such maps are read raw`,
  'usd.blend': () =>
    'it blends or is cut out, though nothing of it is clear; UsdPreviewSurface has that opaque',
  'usd.sides': ({ detail }) =>
    `it shows on both sides, since USD says that of a whole part and others of ${detail} do`,
  'usd.shearMotion': () => 'motion of sheared nodes is left out',
  'usd.smoothing': () => 'USD has no smoothing groups or hard edges; normals say the same',
  'usd.morphMotion': () => 'motion of morph targets needs a skeleton in USD and is left out',
  'usd.jointShown': ({ part }) => `${part}: when a joint is shown has no place in USD`,
  'usd.morphRest': ({ part }) =>
    `${part}: a morph target that is not at 0 stands there in USD, which has weights in motion alone`,
  'usd.clips': () => 'USD holds one motion; further clips are left out',
  'usd.onBone': () =>
    'parts that hang on bones go where these go, and hang on nothing; USD has no place for them under a joint',
  'skin.loose': ({ part, count }) =>
    `${part}: ${count} points follow no joint; where all must follow one, they follow a still one on the part`,
  'gltf.early': ({ part }) =>
    `the motion ${part} begins before 0, where glTF has no time; there it begins at 0`,
  'gltf.visibility': () => 'glTF has no motion of visibility',
  'gltf.lights': () => 'glTF has no area or environment lights; these are left out',
  'gltf.joints': ({ part, count }) =>
    `${part}: ${count} points follow more than four joints; glTF readers follow the four heaviest`,
  'gltf.noUv': ({ part }) => `${part}: glTF reads images by UVs; faces without any read them at one place`,
  'gltf.normals': ({ part, count }) =>
    `${part}: the normals of ${count} corners point nowhere; glTF has those of their faces`,
  'gltf.coloursMore': ({ part, count }) =>
    `${part}: viewers of glTF know one layer of colours; ${count === 1 ? 'one more is' : `${count} more are`} left out`,
  'gltf.passed': () =>
    'the colours of its parts, which it does not show, go out as _COLOR_0, which viewers pass over',
  'colours.unsaid': ({ detail }) =>
    `${detail} has no word for whether it shows the colours of its parts, and receivers may take it otherwise`,
  'usd.colours': () =>
    'UsdPreviewSurface cannot multiply the colours of its parts with an image or a value; they are not shown',
  'gltf.colours': ({ part, count }) =>
    `${part}: ${count} numbers of its colours by point are not in 0..1, and glTF has none beyond; they stop there`,
  'gltf.shear': () => 'glTF nodes keep no shear',
} satisfies Record<string, (loss: Omit<Loss, 'code'>) => string>;

/** What was lost, as code; {@link SENTENCES} has the words. */
export type LossCode = keyof typeof SENTENCES;

/** Every code of a loss. */
export const LOSS_CODES = Object.keys(SENTENCES) as LossCode[];

/** What a format as a whole has no word for: told once, not for every material. */
const OF_THE_FORMAT: ReadonlySet<LossCode> = new Set([
  'format.space',
  'format.direction',
  'format.alpha',
  'format.filter',
  'format.sides',
  'format.height',
  'format.unit',
]);

/** One loss for people, with the material that it is about before it. */
export function lossInWords({ code, ...loss }: Loss): string {
  const sentence = SENTENCES[code](loss);
  return loss.material === undefined || OF_THE_FORMAT.has(code) ? sentence : `${loss.material}: ${sentence}`;
}

/** Each loss once, in the order in which they were met. */
export function distinctLosses(losses: readonly Loss[]): Loss[] {
  return [...new Map(losses.map((loss) => [JSON.stringify(loss), loss])).values()];
}

/** Losses for people, each sentence once. */
export function lossesInWords(losses: readonly Loss[]): string[] {
  return [...new Set(losses.map(lossInWords))];
}

/**
 * Losses of words, not of looks: the tables of the sheet tell which component, which range and which space.
 */
const UNSAID: ReadonlySet<LossCode> = new Set([
  'fbx.inverted',
  'fbx.component',
  'usd.space',
  ...OF_THE_FORMAT,
]);

/** Whether the format has no word for what is lost, so that the sheet says it instead. */
export function isUnsaid({ code }: Loss): boolean {
  return UNSAID.has(code);
}
