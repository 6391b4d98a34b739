import { describe, expect, it } from 'vitest';
import type { AssetSource } from '../../asset/asset.ts';
import { mendAsset } from '../../inspect.ts';
import type { ChannelName, MapUse, Material } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { look, type Paint } from '../../test/sets.ts';

const hues: Paint = (x, y) => [200 - x, 90 + y, 40];
const greys: Paint = (x, y) => Array(3).fill(40 + ((x * 3 + y) % 160));
const holes: Paint = (x, y) => [...hues(x, y), x % 12 < 6 ? 0 : 255];
const packed: Paint = (x, y) => [255 - x, 40 + y, (x * y) % 200];

interface Slot {
  image: string;
  value?: number;
  use?: Partial<MapUse>;
}

interface More {
  change?: Partial<Material>;
  source?: Partial<AssetSource>;
  /** Who put the images into their slots. */
  from?: 'file' | 'hand';
}

/** One material whose slots read painted images; what is told of it by these codes, and what mending leaves. */
function told(
  slots: Partial<Record<ChannelName, Slot>>,
  paints: Record<string, Paint>,
  { change = {}, source = {}, from = 'file' }: More = {},
) {
  const maps = Object.fromEntries(Object.entries(slots).map(([channel, { image }]) => [channel, image]));
  const material = Object.assign(testMaterial('Hull', maps), change);
  for (const [channel, { value, use = {} }] of Object.entries(slots)) {
    const found = material.channels[channel as ChannelName];
    if (!found?.map) continue;
    Object.assign(found.map, use);
    Object.assign(found.source, { from });
    if (value !== undefined) found.value = value;
  }
  const asked = look({ materials: [material], paths: Object.keys(paints), paints, source });
  const ofCodes = (codes: string) =>
    asked.findings
      .filter(({ code }) => codes.split(' ').includes(code))
      .map(({ severity, safe, message }) => ({ severity, safe, message }));
  const mended = () => mendAsset(asked.source, asked.files, 'all', asked.known).state.materials[0];
  return { ofCodes, mended };
}

describe('an image that a factor takes away', () => {
  const rough = 'hull_roughness.png';

  it.each<[string, Slot]>([
    ['value', { image: rough, value: 0 }],
    ['gain', { image: rough, use: { gain: 0 } }],
  ])('is asked about: by its %s', (_, slot) => {
    const { ofCodes, mended } = told({ roughness: slot }, { [rough]: greys });
    expect(ofCodes('surface.mapSilenced')).toEqual([
      { severity: 'warning', safe: false, message: `Hull multiplies roughness of ${rough} by 0.` },
    ]);
    const { value, map } = mended().channels.roughness ?? {};
    expect([value, map?.gain]).toEqual([1, 1]);
  });

  it('is made for its slot by name, and holds more than one value', () => {
    const silenced = (slots: Partial<Record<ChannelName, Slot>>, paints: Record<string, Paint>) =>
      told(slots, paints).ofCodes('surface.mapSilenced').length;
    const both = (image: string) => ({ roughness: { image }, metalness: { image, value: 0 } });
    expect(silenced(both('hull_roughness.png'), { 'hull_roughness.png': greys })).toBe(0);
    expect(silenced({ roughness: { image: rough, value: 0.4 } }, { [rough]: greys })).toBe(0);
    expect(silenced({ roughness: { image: rough, value: 0 } }, { [rough]: () => [90, 90, 90] })).toBe(0);
    // The second number of one image counts by the component that the slot reads.
    const orm = 'hull_orm.png';
    const metal = { image: orm, value: 0, use: { component: 'b' as const } };
    expect(silenced({ metalness: metal }, { [orm]: packed })).toBe(1);
    // What has a finding of its own.
    const light = { emission: { image: 'hull_emissive.png', value: 0 } };
    expect(silenced(light, { 'hull_emissive.png': hues })).toBe(0);
  });
});

describe('opacity that never reaches the cut-off', () => {
  const slots = (slot: Omit<Slot, 'image'>): Partial<Record<ChannelName, Slot>> => ({
    baseColor: { image: 'net.png' },
    opacity: { image: 'net.png', ...slot, use: { component: 'a', ...slot.use } },
  });
  const invisible = (slot: Omit<Slot, 'image'>, change: Partial<Material>) =>
    told(slots(slot), { 'net.png': holes }, { change: { doubleSided: true, ...change } });
  const mask = { alphaMode: 'mask' as const, alphaCutoff: 0.5 };

  it.each<[string, Omit<Slot, 'image'>]>([
    ['value', { value: 0.3 }],
    ['gain', { use: { gain: 0.3 } }],
    ['inverted gain', { use: { gain: 0.3, invert: true } }],
  ])('shows nothing: by its %s', (_, slot) => {
    const { ofCodes, mended } = invisible(slot, mask);
    expect(ofCodes('alpha.invisible')).toEqual([
      {
        severity: 'error',
        safe: true,
        message:
          'Hull has opacity below its cut-off 0.5 on 10 faces. Most likely the writer took transparency for opacity.',
      },
    ]);
    const { channels, alphaMode } = mended();
    expect([channels.opacity?.value, channels.opacity?.map?.gain, alphaMode]).toEqual([1, 1, 'mask']);
  });

  it('is seen where it blends, reaches it, or starts above it', () => {
    for (const [slot, change] of [
      [{ value: 0.3 }, { alphaMode: 'blend' }],
      [{ value: 0.5 }, mask],
      [{ use: { gain: -0.4, offset: 0.6 } }, mask],
    ] as const)
      expect(invisible(slot, change).ofCodes('alpha.invisible')).toEqual([]);
    expect(invisible({ value: 0 }, { alphaMode: 'blend' }).ofCodes('alpha.invisible')[0].message).toMatch(
      /^Hull has opacity 0 on 10 faces/,
    );
  });
});

describe('an alpha that is 1 all over', () => {
  const rough = 'hull_roughness.png';
  const slot = (image: string, use: Partial<MapUse> = {}) => ({
    roughness: { image, use: { component: 'a' as const, ...use } },
  });
  const full: Paint = (x, y) => [...greys(x, y), 255];

  it('is no roughness: it is read where the name says it lies', () => {
    for (const paint of [greys, full]) {
      const { ofCodes, mended } = told(slot(rough), { [rough]: paint });
      expect(ofCodes('slot.pixels')).toEqual([
        {
          severity: 'warning',
          safe: true,
          message: `${rough} feeds roughness of Hull by its alpha, which is 1 all over.`,
        },
      ]);
      expect(mended().channels.roughness?.map?.component).toBe('r');
    }
  });

  it('is asked about where the name says nothing, or it is inverted besides', () => {
    const safe = (image: string, use: Partial<MapUse> = {}, paint: Paint = greys) =>
      told(slot(image, use), { [image]: paint })
        .ofCodes('slot.pixels')
        .map((finding) => finding.safe);
    expect(safe('hull_layer.png')).toEqual([false]);
    expect(safe(rough, { invert: true })).toEqual([false]);
    expect(safe(rough, {}, (x, y) => [...greys(x, y), 255 - (x % 9)])).toEqual([]);
  });
});

describe('an opacity that is 1 all over', () => {
  const net = (image: string, paint: Paint, use: Partial<MapUse> = { component: 'a' }, hand = false) => {
    const slots = { baseColor: { image: 'net.png' }, opacity: { image, use } };
    const { ofCodes, mended } = told(
      slots,
      { 'net.png': holes, [image]: paint },
      {
        change: { alphaMode: 'mask', doubleSided: true },
        ...(hand ? { from: 'hand' } : {}),
      },
    );
    const { map } = mended().channels.opacity ?? {};
    return [ofCodes('alpha.ignored').length, map?.image.replace('parcel:', ''), map?.component];
  };

  it('gives way to the alpha of the base colour, unless a person put it there', () => {
    expect(net('net_roughness.png', greys)).toEqual([1, 'net.png', 'a']);
    // A map of one value is a value first, and then there is no opacity.
    expect(net('net_opacity.png', () => [255], { component: 'r' })).toEqual([0, 'net.png', 'a']);
    expect(net('net_opacity.png', greys, { component: 'r' })).toEqual([0, 'net_opacity.png', 'r']);
    expect(net('net_roughness.png', greys, { component: 'a' }, true)[0]).toBe(0);
  });
});

describe('a mask without opacity', () => {
  const net = (change: Partial<Material>) =>
    told(
      { baseColor: { image: 'net.png' } },
      { 'net.png': holes },
      {
        source: { format: 'gltf' },
        change: { doubleSided: true, ...change },
      },
    ).ofCodes('alpha.ignored');

  it('reads the alpha of its base colour, whatever the format', () => {
    expect(net({ alphaMode: 'mask' })).toEqual([
      {
        severity: 'warning',
        safe: true,
        message: 'Hull reads no opacity, but net.png has an alpha that varies.',
      },
    ]);
    expect(net({ alphaMode: 'opaque' })[0]).toMatchObject({ severity: 'note', safe: false });
  });
});
