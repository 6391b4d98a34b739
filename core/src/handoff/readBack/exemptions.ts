import type { Difference, DifferenceCode } from '../../compare/difference.ts';
import { isUnsaid, type Loss, type LossCode } from '../../scene/loss.ts';

const CHANNEL: DifferenceCode[] = [
  'channel.differs',
  'channel.missing',
  'use.transform',
  'use.uvSet',
  'use.wrap',
  'use.filter',
  'alpha.mode',
  'alpha.cutoff',
];
const PLACING: DifferenceCode[] = ['use.transform', 'use.uvSet', 'use.wrap'];
const READING: DifferenceCode[] = [...PLACING, 'use.filter'];
const PLACES: DifferenceCode[] = ['part.moved', 'shape.points', 'shape.normals', 'shape.winding'];

/** Which differences each loss explains: of its own material, channel and part, and of no other. */
const EXPLAINS: Record<LossCode, readonly DifferenceCode[]> = {
  'map.noPlace': CHANNEL,
  'value.noPlace': CHANNEL,
  'map.missing': [...CHANNEL, 'file.missing'],
  'map.apart': [],
  // What is expected is made so, too.
  'made.mean': [],
  'made.edges': [],
  'made.colours': [],
  'map.ownReading': [...READING, 'channel.differs'],
  'image.missing': ['file.missing'],
  'image.beside': [],
  // Neither is a channel, and of other formats than glTF none says it.
  'glass.thickness': [],
  'cloth.roughness': [],
  'value.floor': ['channel.differs'],
  'height.cut': ['channel.differs'],
  'tile.across': ['shape.uv'],
  'shape.clips': ['rig.clip', 'rig.morph'],
  'part.notMerged': [],
  'part.leftMotion': [],
  'part.mergedMotion': [],
  'part.skinnedPivot': [],
  'part.skinnedPlace': [],
  'part.pivotMotion': [],
  'part.notApplied': [],
  'part.shearedMotion': [],
  'up.fixed': [],
  'patch.missed': [],
  'format.space': ['channel.differs'],
  'format.direction': ['channel.differs'],
  'format.alpha': ['alpha.mode', 'alpha.cutoff'],
  'format.filter': ['use.filter'],
  'format.sides': ['sides'],
  'format.height': ['channel.differs'],
  'format.unit': ['model.unit', 'model.axes'],
  'fbx.inverted': ['channel.differs'],
  'fbx.component': ['channel.differs'],
  'fbx.mirror': ['use.wrap'],
  // What is expected has it too.
  'part.noMaterial': [],
  'fbx.shear': PLACES,
  'fbx.dome': [],
  'sky.missing': [],
  'mtl.noWord': ['channel.differs', 'channel.missing'],
  'mtl.noMapWord': CHANNEL,
  'mtl.placing': PLACING,
  // What is expected has it too.
  'obj.noMaterial': [],
  'obj.hierarchy': ['part.moved'],
  'obj.cameras': [],
  'obj.lights': [],
  'obj.motion': ['rig.clip'],
  'obj.skins': ['rig.skin'],
  'obj.uvSets': ['shape.uv', 'use.uvSet'],
  'obj.morphs': ['rig.morph'],
  'obj.colours': ['shape.colours'],
  'obj.tangents': ['shape.tangents'],
  // What is expected has none either.
  'obj.alpha': [],
  'usd.noInput': CHANNEL,
  'usd.luminance': ['channel.differs'],
  'usd.space': ['channel.differs'],
  'usd.blend': ['alpha.mode'],
  'usd.sides': ['sides'],
  'usd.shearMotion': ['rig.clip'],
  'usd.smoothing': [],
  'usd.morphMotion': ['rig.clip'],
  'usd.jointShown': ['rig.clip'],
  'usd.morphRest': ['rig.morph'],
  'usd.clips': ['rig.clip'],
  'fbx.onBone': ['part.moved'],
  'usd.onBone': ['part.moved'],
  'parts.hidden': ['part.added'],
  'parts.cages': [],
  // What is expected is cut, too.
  'colour.cut': [],
  // Compared between files that say it.
  'parts.oneSided': [],
  'gltf.visibility': ['rig.clip'],
  'skin.loose': [],
  // Motions are compared from their first key on.
  'gltf.early': [],
  'gltf.lights': [],
  // Compared between files that say it.
  'light.fading': [],
  'gltf.noUv': ['shape.uv'],
  // What is expected has them too.
  'gltf.joints': [],
  'gltf.normals': [],
  'gltf.passed': [],
  'gltf.coloursMore': ['shape.colours'],
  'colours.unsaid': ['colours'],
  'usd.colours': ['colours'],
  'gltf.colours': ['shape.colours'],
  'gltf.shear': [...PLACES, 'rig.clip'],
};

/** Channels that say the same, and what they are compared as. */
const SAME: Record<string, readonly string[]> = {
  glossiness: ['roughness'],
  baseColor: ['diffuse', 'reflectance'],
  metalness: ['diffuse', 'reflectance'],
  specularColor: ['reflectance', 'highlight'],
  specular: ['reflectance', 'highlight'],
};

/**
 * The differences with the loss that explains each. `names` gives the written names of a loss's material. A
 * loss that names a material, channel or part explains just that; where it names none, the whole.
 */
export function explained(
  differences: readonly Difference[],
  losses: readonly Loss[],
  names: ReadonlyMap<string, string>,
): Difference[] {
  return differences.map((difference) => ({
    ...difference,
    exempt: losses.find((loss) => explains(loss, difference, names))?.code ?? difference.exempt,
  }));
}

function explains(
  loss: Loss,
  { code, material, channel, part, measured }: Difference,
  names: ReadonlyMap<string, string>,
): boolean {
  if (!EXPLAINS[loss.code].includes(code)) return false;
  if (loss.material !== undefined && loss.material !== material && names.get(loss.material) !== material)
    return false;
  if (loss.channel !== undefined && channel !== null && !isChannel(loss.channel, channel)) return false;
  // A part too many is one that is shown and was hidden, never one that nobody knows.
  if (code === 'part.added' && (!loss.parts || measured !== 'shown')) return false;
  if (loss.parts) return part !== null && loss.parts.includes(part);
  return loss.part === undefined || loss.part === part;
}

function isChannel(lost: string, channel: string): boolean {
  return lost === channel || (SAME[lost]?.includes(channel) ?? false);
}

/** The losses that stay when the words of the sheet are followed. */
export function lastingLosses(losses: readonly Loss[]): Loss[] {
  return losses.filter((loss) => !isUnsaid(loss));
}
