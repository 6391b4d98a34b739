import { ASSET_NAMES } from './assets.ts';
import { RARE_SCHEMES, SCHEMES } from './schemes.ts';
import type { Format, Loss, Relation, ScrambleCase } from './scramble.ts';

const FORMATS: readonly Format[] = ['fbx', 'obj', 'usd', 'gltf'];
const SCHEME_IDS = SCHEMES.map(({ id }) => id);
/** Schemes whose images glTF's own slots can read. */
const PACKED_SCHEMES = ['engine', 'arm'];
/** Assets of several materials whose images show their islands. */
const ISLANDS = ['mooring_buoy', 'dock_crane', 'mast_kit', 'rack', 'signal_lamp', 'winch', 'ladder'];
const TWO_WORDS = ['mast_kit', 'yard_sign', 'kelp_bed', 'signal_lamp', 'winch'];

/** Ways in which names of materials and sets relate that names alone settle. */
export const RELATIONS: readonly Relation[] = [
  'same',
  'decorated',
  'suffixed',
  'assetInSet',
  'joined',
  'counted',
  'folder',
  'folderOnly',
  'parts',
  'last',
];

/** Every parcel that is measured, each kind five times and more; the table is the same each time. */
export function scrambleTable(): ScrambleCase[] {
  const table: ScrambleCase[] = [];
  let turn = 0;
  const pick = <T>(list: readonly T[], step = 1): T => list[(turn * step) % list.length];
  const add = (
    kind: string,
    count: number,
    of: Partial<ScrambleCase> & {
      assets?: readonly string[];
      schemes?: readonly string[];
      formats?: readonly Format[];
    },
  ) => {
    for (let i = 0; i < count; i += 1) {
      turn += 1;
      const loss = of.loss ?? 'white';
      const format = pick(of.formats ?? FORMATS);
      // glTF has no slot for a roughness of its own.
      const schemes = of.schemes ?? (format === 'gltf' && loss !== 'white' ? PACKED_SCHEMES : SCHEME_IDS);
      table.push({
        kind,
        asset: of.asset ?? pick(of.assets ?? ASSET_NAMES, 3),
        scheme: of.scheme ?? pick(schemes, 5),
        relation: of.relation ?? 'same',
        loss,
        format: of.format ?? format,
        ...(of.rivals ? { rivals: of.rivals } : {}),
        ...(of.asks ? { asks: true } : {}),
      });
    }
  };
  for (const relation of RELATIONS) add(`name ${relation}`, 8, { relation });
  add('name reordered', 6, { relation: 'reordered', assets: TWO_WORDS });
  add('name numbered', 6, { relation: 'numbered', assets: ['mooring_buoy', 'dock_crane', 'rack'] });
  for (const scheme of SCHEME_IDS) add(`scheme ${scheme}`, 5, { scheme });
  for (const { id } of RARE_SCHEMES) add(`scheme ${id}`, 5, { scheme: id });
  const losses: Loss[] = [
    'windows',
    'host',
    'moved',
    'type',
    'resolution',
    'version',
    'renamed',
    'case',
    'encoded',
    'rescheme',
    'oneLost',
  ];
  for (const loss of losses)
    add(`lost ${loss}`, 6, { loss, formats: loss === 'rescheme' ? ['fbx', 'obj', 'usd'] : FORMATS });
  add('cut-outs', 6, { assets: ['kelp_bed', 'net_store'] });
  add('panes', 6, { assets: ['wheelhouse', 'signal_lamp'] });
  add('contained names', 6, { assets: ['mast_kit', 'winch'] });
  add('numbers are names', 6, { asset: 'rack' });
  add('misleading words', 6, { asset: 'yard_sign' });
  add('layout alone', 8, { relation: 'layout', assets: ISLANDS });
  add('one atlas', 5, { relation: 'atlas', asset: 'tool_rack' });
  add('rivals', 6, {
    rivals: 'recoloured',
    asks: true,
    assets: ['mooring_buoy', 'barrel', 'winch', 'ladder'],
  });
  add('rivals by layout', 5, { rivals: 'turned', assets: ['mooring_buoy', 'winch', 'rack'] });
  add('nothing tells', 6, { relation: 'silent', asks: true, asset: 'quay_wall' });
  return table;
}
