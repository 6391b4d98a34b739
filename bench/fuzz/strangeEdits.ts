import type { AssetState, Edit, ParcelImage } from '@kinkajou/core/asset/asset';
import { nodeKeys } from '@kinkajou/core/asset/asset';
import { replay } from '@kinkajou/core/edits/log';
import { parseEdit } from '@kinkajou/core/edits/schema';
import type { OpenAsset } from '@kinkajou/core/inspect';
import type { ChannelName } from '@kinkajou/core/scene/material';
import { COLLISIONS, type PartChange, PIVOTS } from '@kinkajou/core/scene/partChange';
import { TAKE_PARTS } from '@kinkajou/core/scene/take';
import { generator } from './damage.ts';

type Random = () => number;
type Unparsed = Record<string, unknown>;

const ORIGIN = { from: 'hand', detail: 'by lot' };
const COLOURS: ChannelName[] = ['baseColor', 'emission', 'specularColor', 'sheenColor'];
const NUMBERS: ChannelName[] = [
  ...['metalness', 'roughness', 'opacity', 'occlusion', 'transmission', 'coat', 'coatRoughness'],
  ...['specular', 'glossiness', 'bump', 'height'],
] as ChannelName[];
const SPACES = [
  'srgb_rec709_scene',
  'data',
  'lin_rec709_scene',
  'lin_ap1_scene',
  'g22_rec709_scene',
  'srgb_p3d65_scene',
];

/**
 * One to `most` edits of any kind at random: those that an asset refuses are left out. The same seed gives the
 * same edits.
 */
export function strangeEdits({ source, images, document }: OpenAsset, seed: number, most = 6): Edit[] {
  const random = generator(seed);
  const edits: Edit[] = [];
  const keys = nodeKeys(document.nodes);
  const count = 1 + Math.floor(random() * most);
  for (let i = 0; i < count; i += 1) {
    const { state } = replay(source, edits, images);
    const edit = pick(KINDS, random)({ state, images, keys, random });
    if (edit) edits.push(parseEdit({ ...edit, origin: ORIGIN }));
  }
  return edits;
}

interface Known {
  state: AssetState;
  images: readonly ParcelImage[];
  keys: readonly string[];
  random: Random;
}

function pick<T>(list: readonly T[], random: Random): T {
  return list[Math.floor(random() * list.length)];
}

function some<T>(list: readonly T[], random: Random): T[] {
  const taken = list.filter(() => random() < 0.5);
  return taken.length > 0 || list.length === 0 ? taken : [pick(list, random)];
}

const round = (value: number) => Math.round(value * 100) / 100;

const KINDS: ((known: Known) => Unparsed | null)[] = [
  ({ state, random }) => {
    const material = pick(state.materials, random);
    if (!material) return null;
    const colour = random() < 0.5;
    const channel = pick(colour ? COLOURS : NUMBERS, random);
    const value = colour ? [0, 0, 0].map(() => round(random())) : round(random());
    return { kind: 'setValues', slots: [{ material: material.key, channel }], value };
  },
  ({ state, random }) => {
    const slots = mapped(state);
    if (slots.length === 0) return null;
    const slot = pick(slots, random);
    const change = pick(
      [
        { invert: random() < 0.5 },
        { space: pick(SPACES, random) },
        { normalY: pick(['Y+', 'Y-'], random) },
        {
          component: pick(
            slot.channel === 'normal' || COLOURS.includes(slot.channel)
              ? ['rgb']
              : ['r', 'g', 'b', 'luminance'],
            random,
          ),
        },
        { filter: pick(['smooth', 'nearest'], random) },
      ],
      random,
    );
    return { kind: 'adjustSlots', slots: [slot], change };
  },
  ({ state, images, random }) => {
    const [material, image] = [pick(state.materials, random), pick(images, random)];
    if (!material || !image?.info) return null;
    const channel = pick([...COLOURS, ...NUMBERS, 'normal' as const], random);
    const vector = COLOURS.includes(channel) || channel === 'normal';
    return {
      kind: 'assignSlots',
      assignments: [
        {
          material: material.key,
          channel,
          image: image.path,
          component: vector ? 'rgb' : pick(['r', 'luminance'], random),
          invert: !vector && random() < 0.3,
          space: COLOURS.includes(channel) ? pick(SPACES, random) : 'data',
          normalY: pick(['Y+', 'Y-'], random),
        },
      ],
    };
  },
  ({ state, random }) => {
    const slots = mapped(state);
    return slots.length === 0 ? null : { kind: 'clearSlots', slots: [pick(slots, random)] };
  },
  ({ state, random }) => {
    const materials = some(state.materials, random).map(({ key }) => key);
    if (materials.length === 0) return null;
    const change = pick(
      [
        { alphaMode: pick(['opaque', 'mask', 'blend'], random), alphaCutoff: round(random()) },
        { doubleSided: random() < 0.5 },
        { opacity: round(random()), alphaMode: 'blend' },
      ],
      random,
    );
    return { kind: 'setAlpha', materials, change };
  },
  ({ state, random }) => {
    const named = some(state.materials, random);
    if (named.length === 0) return null;
    return {
      kind: 'renameMaterials',
      names: named.map(({ key }, i) => ({
        material: key,
        name: `${pick(['Teak', 'Lack', 'a/b'], random)} ${i}`,
      })),
    };
  },
  ({ state, random }) =>
    state.materials.length === 0
      ? null
      : {
          kind: 'numberMaterials',
          numbers: state.materials.map(({ key }) => ({ material: key, number: Math.floor(random() * 9) })),
        },
  ({ state, random }) => {
    const [into, ...others] = state.materials.map(({ key }) => key);
    return others.length === 0 ? null : { kind: 'mergeMaterials', materials: [pick(others, random)], into };
  },
  ({ state, keys, random }) => {
    const material = pick(state.materials, random);
    return material && keys.length > 0
      ? { kind: 'bindNodes', nodes: some(keys, random), material: material.key }
      : null;
  },
  ({ random }) => ({
    kind: 'setIntake',
    choice: {
      parts: TAKE_PARTS.filter(() => random() < 0.9),
      up: pick([null, null, 'X', 'Y', 'Z'], random),
      metresPerUnit: pick([null, 0.01, 0.0254], random),
      rotation: pick(
        [
          [0, 0, 0],
          [90, 0, 0],
          [0, 30, 0],
        ],
        random,
      ),
      scale: pick([1, 2, 0.5], random),
    },
  }),
  partEdit,
  partEdit,
  partEdit,
  partEdit,
];

function partEdit({ keys, random }: Known): Unparsed | null {
  if (keys.length === 0) return null;
  const parts = some(keys, random);
  const changes: PartChange[] = [
    { do: 'drop', parts: [pick(keys, random)] },
    { do: 'restore', parts },
    { do: 'rename', names: parts.map((part, i) => ({ part, name: `Beam ${i}` })) },
    { do: 'move', parts, under: pick([null, ...keys], random) },
    { do: 'group', parts, name: 'Rigging' },
    { do: 'ungroup', parts },
    { do: 'merge', parts, name: 'Whole' },
    { do: 'cut', parts, by: pick(['materials', 'solids'], random) },
    { do: 'turnFaces', parts },
    { do: 'agreeFaces', parts },
    { do: 'normals', parts, angle: pick([0, 45, 180], random) },
    { do: 'pivot', parts, at: pick([...PIVOTS, [0.5, 1, -0.25]], random) } as PartChange,
    { do: 'apply', parts },
    { do: 'reset', parts },
    {
      do: 'place',
      parts,
      about: [0.5, 0, 0],
      move: [round(random()), round(random()), 0],
      turn: [0, pick([0, 90, 33], random), 0],
      scale: pick([1, 2, 0.5], random),
    },
    { do: 'collision', parts, shape: pick(COLLISIONS, random) } as PartChange,
  ];
  return { kind: 'editParts', change: pick(changes, random) };
}

function mapped(state: AssetState) {
  return state.materials.flatMap(({ key, channels }) =>
    Object.entries(channels)
      .filter(([, channel]) => channel.map)
      .map(([channel]) => ({ material: key, channel: channel as ChannelName })),
  );
}
