import { createMesh, type PolygonMesh } from '@kinkajou/core/scene/document';
import { type Background, type Island, type Planes, paintSurface, randomLayout } from './surfaces.ts';

/** One material of a scrambled asset, with the truth about it. */
export interface ScrambleMaterial {
  /** Words of what it is, in lower case. */
  words: readonly string[];
  alpha: 'opaque' | 'mask' | 'blend';
  planes: Planes;
  mesh: PolygonMesh;
}

/** A made-up asset before it is scrambled. */
export interface ScrambleAsset {
  name: string;
  materials: ScrambleMaterial[];
}

interface Plan {
  name: string;
  background: Background;
  /** One image for all materials, each in islands of its own. */
  atlas?: boolean;
  /** Materials by their words; `~` cuts out, `%` blends, `*` glows. */
  materials: string[];
}

/** A dozen and more of the harbour's simple things; contained, numbered and misleading names among them. */
const PLANS: readonly Plan[] = [
  { name: 'mooring_buoy', background: 'flat', materials: ['float', 'chain', 'ring'] },
  { name: 'cargo_crate', background: 'padded', materials: ['crate'] },
  { name: 'dock_crane', background: 'padded', materials: ['jib', 'cab', 'base', 'hook', 'cable'] },
  { name: 'mast_kit', background: 'flat', materials: ['mast', 'mast rope', 'boom'] },
  {
    name: 'rack',
    background: 'padded',
    materials: ['part 001', 'part 002', 'part 003', 'part 004', 'part 005'],
  },
  { name: 'yard_sign', background: 'flat', materials: ['glow sign *', 'rough rope', 'normal bolt'] },
  { name: 'wheelhouse', background: 'flat', materials: ['glass %', 'metal', 'wood'] },
  { name: 'kelp_bed', background: 'flat', materials: ['kelp leaf ~', 'kelp stem'] },
  { name: 'net_store', background: 'flat', materials: ['netting ~', 'cork'] },
  { name: 'signal_lamp', background: 'padded', materials: ['lamp housing', 'lamp lens %', 'lamp bulb *'] },
  { name: 'ladder', background: 'clear', materials: ['rail', 'rung'] },
  { name: 'winch', background: 'padded', materials: ['winch drum', 'winch drum cap', 'winch base'] },
  { name: 'quay_wall', background: 'painted', materials: ['stone', 'coping'] },
  { name: 'tool_rack', background: 'flat', atlas: true, materials: ['handle', 'blade', 'hook'] },
  { name: 'barrel', background: 'flat', materials: ['barrel'] },
];

/** Names of the assets without an atlas. */
export const ASSET_NAMES = PLANS.filter(({ atlas }) => !atlas).map(({ name }) => name);

const kept = new Map<string, ScrambleAsset>();

/** One asset by name, computed once. */
export function scrambleAsset(name: string): ScrambleAsset {
  const known = kept.get(name);
  if (known) return known;
  const index = PLANS.findIndex((plan) => plan.name === name);
  const plan = PLANS[index];
  const shared = plan.atlas ? atlasOf(index * 31, plan.background) : null;
  const materials = plan.materials.map((text, i): ScrambleMaterial => {
    if (shared) {
      const own = shared.islands.filter((_, k) => k % plan.materials.length === i);
      return { words: text.split(' '), alpha: 'opaque', planes: shared.planes, mesh: panels(text, own, i) };
    }
    const alpha = alphaOf(text);
    const words = text.replace(/ [~%*]$/, '').split(' ');
    const seed = index * 31 + i * 7 + 3;
    const islands = plan.background === 'painted' || alpha !== 'opaque' ? WHOLE : randomLayout(seed);
    const planes = paintSurface({
      seed,
      islands,
      background: islands === WHOLE ? 'painted' : plan.background,
      alpha,
      glows: text.endsWith('*'),
    });
    return { words, alpha, planes, mesh: panels(words.join('_'), islands, i) };
  });
  const asset = { name, materials };
  kept.set(name, asset);
  return asset;
}

function alphaOf(text: string) {
  if (text.endsWith('~')) return 'mask';
  return text.endsWith('%') ? 'blend' : 'opaque';
}

/** One painted image, and its islands. */
function atlasOf(first: number, background: Background): { islands: Island[]; planes: Planes } {
  let seed = first;
  let islands = randomLayout(seed);
  while (islands.length < 6) {
    seed += 1;
    islands = randomLayout(seed);
  }
  return { islands, planes: paintSurface({ seed, islands, background, alpha: 'opaque', glows: false }) };
}

const WHOLE: readonly Island[] = [{ left: 0, low: 0, wide: 1, high: 1 }];
/** Quads along each side of an island. */
const GRID = 4;

/** A flat panel for each island, side by side, facing +Z. */
function panels(name: string, islands: readonly Island[], row: number): PolygonMesh {
  const points: number[] = [];
  const uvs: number[] = [];
  const corners: number[] = [];
  for (const [i, { left, low, wide, high }] of islands.entries()) {
    const first = points.length / 3;
    for (let y = 0; y <= GRID; y += 1)
      for (let x = 0; x <= GRID; x += 1) {
        points.push(i * 0.5 + 0.4 * (x / GRID), row * 0.6 + 0.4 * (y / GRID), 0);
        uvs.push(left + (wide * x) / GRID, low + (high * y) / GRID);
      }
    for (let y = 0; y < GRID; y += 1)
      for (let x = 0; x < GRID; x += 1) {
        const at = first + y * (GRID + 1) + x;
        corners.push(at, at + 1, at + GRID + 2, at + GRID + 1);
      }
  }
  const index = Uint32Array.from(corners);
  return createMesh(name, {
    points: Float64Array.from(points),
    faceCounts: new Uint32Array(corners.length / 4).fill(4),
    faceCorners: index,
    normals: {
      name: 'normal',
      size: 3,
      domain: 'corner',
      values: Float64Array.from([0, 0, 1]),
      index: new Uint32Array(corners.length),
    },
    uvSets: [
      { name: 'map1', size: 2, domain: 'corner', values: Float64Array.from(uvs), index: index.slice() },
    ],
  });
}
