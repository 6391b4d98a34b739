import { describe, expect, it } from 'vitest';
import { LAYOUT, type UvLayout } from '../asset/uvLayout.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { type MapReading, plainReading } from '../maps/nameSpans.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import type { ChannelName, Material } from '../scene/material.ts';
import { testMaterial, testSource, testState } from '../test/assets.ts';
import { type Paint, parcel } from '../test/sets.ts';
import type { ImageSet, SetMember } from './imageSet.ts';
import type { SetEvidence } from './setEvidence.ts';
import { offerSet } from './suggest.ts';

const member = (path: string, reading: MapReading, more: Partial<DetectedMap> = {}): SetMember => ({
  map: {
    ...({
      path,
      space: 'srgb_rec709_scene',
      evidence: [],
      packed: false,
      constant: false,
    } as unknown as DetectedMap),
    ...more,
  },
  reading,
  confidence: 0.9,
});
const plain = (channel: ChannelName, more: Partial<DetectedMap> = {}) =>
  member(`hull_${channel}.png`, plainReading(channel), more);

function setOf(...members: SetMember[]): ImageSet {
  return {
    ...{ id: 'hull', label: 'hull', words: ['hull'], folder: '', folderWords: [], content: 'hull' },
    ...{ guess: false, spare: [], other: null, members },
  };
}

/** What a material is offered: `metalness b hull_orm.png`, and the shading model that goes with it. */
function offered(
  material: Material,
  set: ImageSet,
  {
    layouts = {},
    facts = {},
  }: { layouts?: Record<string, UvLayout>; facts?: Record<string, PixelFacts> } = {},
) {
  const state = testState([material], []);
  const source = { ...testSource(state), uvLayouts: layouts };
  const evidence = { set, name: 0.5, layout: null, narrower: false, score: 0.5, reasons: [] };
  const { suggestions, workflow } = offerSet(material, evidence, {
    source,
    state,
    resolvedPath: (key) => key,
    factsOf: (path) => facts[path] ?? null,
  });
  return [
    ...suggestions.map(({ channel, component, image, invert }) =>
      [channel, component, image, ...(invert ? ['inverted'] : [])].join(' '),
    ),
    ...(workflow ? [workflow.workflow] : []),
  ];
}

const half = (right: boolean): UvLayout => ({
  // Rows of 64 cells, four a digit.
  cells: Array.from({ length: LAYOUT }, () =>
    right ? `${'0'.repeat(8)}${'f'.repeat(8)}` : `${'f'.repeat(8)}${'0'.repeat(8)}`,
  ).join(''),
  repeats: 0,
});

describe('a material is offered', () => {
  it('what a packed image has besides what is read of it, and no plain image twice', () => {
    const reads = testMaterial('Hull', { roughness: { image: 'hull_orm.png', component: 'g' } });
    const packed = { packed: true };
    const orm = setOf(
      member('hull_orm.png', plainReading('roughness', 'g'), packed),
      member('hull_orm.png', plainReading('metalness', 'b'), packed),
    );
    expect(offered(reads, orm)).toEqual(['metalness b hull_orm.png']);
    const grey = setOf(member('hull_orm.png', plainReading('metalness')));
    expect(offered(reads, grey)).toEqual([]);
  });

  it('an alpha as opacity where it varies under its faces, and no clear background', () => {
    const clearRight: Paint = (x) => [200, 90, 40, x < 32 ? 255 : 0];
    const { files, facts } = parcel(['hull.png'], { 'hull.png': clearRight });
    const seen = { facts: { 'hull.png': facts.get(files[0].sha256) as PixelFacts } };
    const set = setOf(member('hull.png', plainReading('opacity', 'a'), { packed: true }));
    expect(offered(testMaterial('Hull'), set, { ...seen, layouts: { Hull: half(false) } })).toEqual([]);
    expect(offered(testMaterial('Hull'), set, { ...seen, layouts: { Hull: half(true) } })).toEqual([
      'opacity a hull.png',
    ]);
    expect(offered(testMaterial('Hull'), set)).toEqual(['opacity a hull.png']);
  });

  it('gloss as roughness, inverted, where no roughness is there', () => {
    const [gloss, rough] = [plain('glossiness'), plain('roughness')];
    expect(offered(testMaterial('Hull'), setOf(gloss))).toEqual(['roughness r hull_glossiness.png inverted']);
    expect(offered(testMaterial('Hull'), setOf(gloss, rough))).toEqual(['roughness r hull_roughness.png']);
  });

  it('the shading model that the set is painted for', () => {
    const model = (...channels: ChannelName[]) =>
      offered(testMaterial('Hull'), setOf(...channels.map((channel) => plain(channel)))).filter(
        (line) => !line.includes(' '),
      );
    expect(model('baseColor', 'specularColor', 'glossiness')).toEqual(['specGloss']);
    expect(model('baseColor', 'specularColor')).toEqual(['legacy']);
    // With roughness or metalness it is neither.
    expect(model('baseColor', 'specularColor', 'roughness')).toEqual([]);
    expect(model('baseColor', 'specularColor', 'glossiness', 'metalness')).toEqual([]);
    expect(model('baseColor', 'normal')).toEqual([]);
    const metal = testMaterial('Hull', { metalness: 'metal.png' });
    expect(offered(metal, setOf(plain('specularColor')))).not.toContain('legacy');
  });

  it('no map of one value where somebody set the value, or that has none', () => {
    const flat = (channel: ChannelName) => setOf(plain(channel, { constant: true }));
    const material = testMaterial('Hull');
    expect(offered(material, flat('normal'))).toEqual([]);
    expect(offered(material, flat('occlusion'))).toEqual([]);
    expect(offered(material, flat('roughness'))).toHaveLength(1);
    material.channels.roughness = { value: 0.4, map: null, source: { from: 'hand', detail: '' } };
    expect(offered(material, flat('roughness'))).toEqual([]);
  });
});

describe('a lone image', () => {
  const confidence = (of: Partial<SetMember>, evidence: Partial<SetEvidence & { only: boolean }> = {}) => {
    const material = testMaterial('Hull');
    const state = testState([material], []);
    const set = setOf({ ...plain('baseColor'), ...of });
    const { suggestions } = offerSet(
      material,
      { ...{ set, name: 0.2, layout: null, narrower: false, score: 0.2, reasons: [] }, ...evidence },
      { source: testSource(state), state, resolvedPath: (key) => key, factsOf: () => null },
    );
    return suggestions[0].confidence;
  };

  it('is the colour by its name, as the only one, or as a picture that lies where the faces are', () => {
    expect(confidence({ confidence: 0.6 })).toBe(0.6);
    expect(confidence({ confidence: 0.6 }, { name: 0.85 })).toBe(0.85);
    expect(confidence({ confidence: 0.6 }, { only: true })).toBe(0.85);
    expect(confidence({ confidence: 0.7 }, { layout: 0.85 })).toBe(0.85);
    expect(confidence({ confidence: 0.7 }, { layout: 0.84 })).toBe(0.7);
    expect(confidence({ confidence: 0.69 }, { layout: 0.9 })).toBe(0.69);
    const normal = { ...plain('normal'), confidence: 0.7 };
    expect(confidence(normal, { layout: 0.9, name: 0.9 })).toBe(0.7);
    const contradicted = plain('baseColor', { contradicted: true });
    expect(confidence({ ...contradicted, confidence: 0.7 }, { layout: 0.9, name: 0.9 })).toBe(0.7);
  });
});
