import { describe, expect, it } from 'vitest';
import type { AssetSource, AssetState, Edit } from '../../asset/asset.ts';
import { replay } from '../../edits/log.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { lookAtPixels, type PixelFacts } from '../../maps/pixelFacts.ts';
import { TAKE_ALL } from '../../scene/intake.ts';
import type { Material } from '../../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../../test/assets.ts';
import { findFindings } from '../checks.ts';
import type { Finding } from '../finding.ts';

const SIDE = 64;

/** An image by a function of place, components in 0..1. */
function paint(components: number, of: (u: number, v: number) => readonly number[]): PixelBuffer {
  const data = new Uint8Array(SIDE * SIDE * components);
  for (let i = 0; i < SIDE * SIDE; i += 1) {
    const texel = of(((i % SIDE) + 0.5) / SIDE, (Math.floor(i / SIDE) + 0.5) / SIDE);
    for (let k = 0; k < components; k += 1) data[i * components + k] = Math.round(texel[k] * 255);
  }
  return { width: SIDE, height: SIDE, components, data };
}

/** Findings of one material whose images are given by file name. */
function findingsOf(
  material: Material,
  images: Record<string, PixelBuffer> = {},
  source: Partial<AssetSource> = {},
): Finding[] {
  const state = testState([material]);
  const files = Object.entries(images).map(([path, { components }]) =>
    testImage(path, { components, width: SIDE, height: SIDE }),
  );
  const facts = new Map<string, PixelFacts>(
    files.map((file) => [file.sha256, lookAtPixels(images[file.path])]),
  );
  return findFindings({ ...testSource(state), ...source }, state, files, { facts });
}

const codes = (findings: readonly Finding[], prefix: string) =>
  findings.map(({ code }) => code).filter((code) => code.startsWith(prefix));
const value = (
  material: Material,
  channel: keyof Material['channels'],
  number: number | [number, number, number],
) => {
  material.channels[channel] = { value: number, map: null, source: { from: 'file', detail: '' } };
  return material;
};

describe('specular strength', () => {
  it('above 1 is a finding, and is brought to 1 with its hue', () => {
    const [finding] = findingsOf(value(testMaterial('Wall'), 'specularColor', [2, 1, 0.5])).filter(
      ({ code }) => code === 'surface.specularTooStrong',
    );
    expect(finding.mend).toMatchObject({ kind: 'setValues', value: [1, 0.5, 0.25] });
    expect(codes(findingsOf(value(testMaterial('Wall'), 'specular', 1)), 'surface.spec')).toEqual([]);
  });
});

describe('legacy shading', () => {
  const legacy = (specular: number, exponent: number | null) => {
    const material = value(testMaterial('Rail'), 'specularColor', [specular, specular, specular]);
    return Object.assign(material, { workflow: 'legacy', exponent });
  };

  it('is told once for all materials, where it says something', () => {
    const [finding] = findingsOf(legacy(0.5, 40));
    expect(finding).toMatchObject({
      code: 'surface.legacyOnly',
      severity: 'note',
      make: { materials: ['Rail'], recipe: 'metal-rough' },
    });
    expect(findingsOf(legacy(0.01, 40))).toEqual([]);
    expect(findingsOf(legacy(0.5, null))).toEqual([]);
    expect(findingsOf(value(legacy(0.5, 40), 'roughness', 0.4))).toEqual([]);
  });
});

describe('a painted specular colour', () => {
  const classic = (maps: Parameters<typeof testMaterial>[1], exponent: number | null = null) =>
    Object.assign(testMaterial('Rail', maps), { workflow: 'legacy' as const, exponent });
  const images = { 's.png': paint(3, (u) => [u, u, 0.2]), 'g.png': paint(1, (u) => [u]) };

  it('without gloss, roughness or exponent is told', () => {
    const { 's.png': alone } = images;
    expect(
      codes(findingsOf(classic({ specularColor: 's.png' }), { 's.png': alone }), 'surface.gloss'),
    ).toEqual(['surface.glossLacking']);
    // An image that waits for its slot is gloss enough.
    expect(codes(findingsOf(classic({ specularColor: 's.png' }), images), 'surface.gloss')).toEqual([]);
    expect(
      codes(findingsOf(classic({ specularColor: 's.png' }, 40), { 's.png': alone }), 'surface.gloss'),
    ).toEqual([]);
    expect(
      codes(findingsOf(classic({ specularColor: 's.png', glossiness: 'g.png' }), images), 'surface.gloss'),
    ).toEqual([]);
    expect(
      codes(
        findingsOf(testMaterial('Rail', { specularColor: 's.png', roughness: 'g.png' }), images),
        'surface.gloss',
      ),
    ).toEqual([]);
  });
});

describe('a plain colour', () => {
  const plain = (alpha: (u: number) => number) => ({
    'pane.png': paint(4, (u) => [0.4, 0.5, 0.2, alpha(u)]),
  });

  it('with a shape in its alpha stays an image, and the shape is told of', () => {
    const drawn = findingsOf(
      testMaterial('Leaf', { baseColor: 'pane.png' }),
      plain((u) => (u < 0.4 ? 0 : 1)),
    );
    expect(codes(drawn, '').filter((code) => code === 'slot.constant' || code === 'alpha.ignored')).toEqual([
      'alpha.ignored',
    ]);
    const even = findingsOf(
      testMaterial('Leaf', { baseColor: 'pane.png' }),
      plain(() => 0.5),
    );
    expect(codes(even, 'slot.constant')).toEqual([]);
  });

  it('without one gives way to its value, and the image does not count as unused then', () => {
    const [finding] = findingsOf(
      testMaterial('Leaf', { baseColor: 'pane.png' }),
      plain(() => 1),
    ).filter(({ code }) => code === 'slot.constant');
    expect(finding.safe).toBe(true);
    const state = testState([testMaterial('Leaf', { baseColor: 'pane.png' })]);
    const bare = { ...testSource(state), materials: [testMaterial('Leaf')], images: [] };
    const pane = testImage('pane.png', { components: 4 });
    const assigned: Edit = {
      kind: 'assignSlots',
      assignments: [
        {
          material: 'Leaf',
          channel: 'baseColor',
          image: 'pane.png',
          component: 'rgb',
          invert: false,
          space: 'srgb_rec709_scene',
          normalY: 'Y+',
        },
      ],
      origin: { from: 'hand', detail: '' },
    };
    const after = replay(bare, [assigned, finding.mend as Edit], [pane]).state;
    expect(after.materials[0].channels.baseColor?.map).toBeNull();
    expect(findFindings(bare, after, [pane]).map(({ code }) => code)).not.toContain('map.unused');
  });
});

describe('what was taken from the last model of the program', () => {
  const rule = { from: 'rule' as const, detail: 'as last taken from files by "Quaywright"' };
  const taken = (intake: AssetState['intake'], origin: Edit['origin'] = rule) => {
    const source = testSource(testState([testMaterial('Hull')]));
    const edits: Edit[] = [{ kind: 'setIntake', choice: intake, origin }];
    const { state } = replay(source, edits, []);
    return {
      source,
      edits,
      found: findFindings(source, state, []).filter(({ code }) => code === 'intake.remembered'),
    };
  };

  it('is told, and kept or taken back by an answer', () => {
    const { source, edits, found } = taken({ ...TAKE_ALL, metresPerUnit: 0.0254 });
    expect(found).toMatchObject([
      { severity: 'warning', message: 'Take: 0.0254 m per unit, as last taken from files by "Quaywright".' },
    ]);
    expect(found[0].choices?.map(({ id }) => id)).toEqual(['keep', 'stated']);
    for (const { id, edits: answer } of found[0].choices ?? []) {
      const after = replay(source, [...edits, ...answer], []).state;
      expect(after.intake.metresPerUnit).toBe(id === 'keep' ? 0.0254 : null);
      expect(findFindings(source, after, []).map(({ code }) => code)).not.toContain('intake.remembered');
    }
    expect(taken({ ...TAKE_ALL, parts: ['meshes', 'materials'] }).found[0].severity).toBe('note');
  });

  it('is no finding where a person chose it, or nothing was changed', () => {
    expect(taken({ ...TAKE_ALL, up: 'Z' }, { from: 'hand', detail: '' }).found).toEqual([]);
    expect(taken(TAKE_ALL).found).toEqual([]);
  });
});

describe('height', () => {
  const bounds = { min: [0, 0, 0] as [number, number, number], max: [3, 4, 0] as [number, number, number] };
  const displaced = (amount: number) => {
    const material = testMaterial('Wall', { height: 'wall_height.png' });
    if (material.channels.height) material.channels.height.value = amount;
    const image = paint(1, (u, v) => [0.5 + 0.4 * Math.sin(u * 17) * Math.sin(v * 13)]);
    return findingsOf(material, { 'wall_height.png': image }, { bounds, metresPerUnit: 0.01 }).find(
      ({ code }) => code === 'surface.heightTooStrong',
    );
  };

  it('is judged against the diagonal in units of the model: 5 m are 500 of them', () => {
    expect(displaced(24)).toBeUndefined();
    expect(displaced(30)?.message).toContain('6%');
    expect(displaced(30)?.mend).toMatchObject({ value: 5 });
  });
});

describe('occlusion in the base colour', () => {
  const shade = (u: number, v: number) => 0.35 + 0.65 * (0.5 + 0.5 * Math.sin(u * 20) * Math.cos(v * 12));
  const images = (mixed: boolean) => ({
    'wall_basecolor.png': paint(3, (u, v) =>
      [0.8, 0.5, 0.3].map((component) => component * (mixed ? shade(u, v) : 1 - 0.1 * Math.sin(u * 50))),
    ),
    'wall_ao.png': paint(1, (u, v) => [shade(u, v)]),
  });
  const material = () => testMaterial('Wall', { baseColor: 'wall_basecolor.png', occlusion: 'wall_ao.png' });

  it('is found where both darken together, and only there', () => {
    expect(codes(findingsOf(material(), images(true)), 'surface')).toEqual(['surface.occlusionBaked']);
    expect(codes(findingsOf(material(), images(false)), 'surface')).toEqual([]);
  });

  it('is not looked for between two layouts', () => {
    const other = material();
    if (other.channels.occlusion?.map) other.channels.occlusion.map.uvSet = 'map2';
    expect(codes(findingsOf(other, images(true)), 'surface.occlusion')).toEqual([]);
  });
});

describe('palettes', () => {
  const swatches = {
    'flags_basecolor.png': paint(
      3,
      (u) =>
        [
          [0.8, 0.1, 0.1],
          [0.1, 0.2, 0.6],
          [0.9, 0.8, 0.2],
          [0.1, 0.1, 0.1],
        ][Math.floor(u * 4)],
    ),
  };
  const flags = () => testMaterial('Flags', { baseColor: 'flags_basecolor.png' });

  it('are known by few flat colours and faces that use one point', () => {
    expect(codes(findingsOf(flags(), swatches, { pointUvs: { Flags: 1 } }), 'palette')).toEqual([
      'palette.filtered',
    ]);
    expect(codes(findingsOf(flags(), swatches, { pointUvs: { Flags: 0.3 } }), 'palette')).toEqual([]);
    const painted = { 'flags_basecolor.png': paint(3, (u, v) => [u, v, 0.5 + 0.5 * Math.sin(u * 40)]) };
    expect(codes(findingsOf(flags(), painted, { pointUvs: { Flags: 1 } }), 'palette')).toEqual([]);
  });

  it('are content with nearest filtering', () => {
    const material = flags();
    if (material.channels.baseColor?.map) material.channels.baseColor.map.filter = 'nearest';
    expect(codes(findingsOf(material, swatches, { pointUvs: { Flags: 1 } }), 'palette')).toEqual([]);
  });
});

describe('edges of cut-outs', () => {
  const disc = (colour: (alpha: number) => number[]) =>
    paint(4, (u, v) => {
      const alpha = Math.min(1, Math.max(0, (0.32 - Math.hypot(u - 0.5, v - 0.5)) * SIDE));
      return [...colour(alpha), alpha];
    });
  const cut = (image: PixelBuffer) => {
    const material = testMaterial('Leaf', {
      baseColor: 'leaf_basecolor.png',
      opacity: { image: 'leaf_basecolor.png', component: 'a' },
    });
    Object.assign(material, { alphaMode: 'mask', doubleSided: true });
    return findingsOf(material, { 'leaf_basecolor.png': image }).filter(({ code }) =>
      code.startsWith('alpha'),
    );
  };

  it('are clean where the colour goes on', () => {
    expect(cut(disc(() => [0.3, 0.6, 0.2]))).toEqual([]);
  });

  it('have one finding for each cause, with its own recipe', () => {
    expect(cut(disc((alpha) => (alpha > 0 ? [0.3, 0.6, 0.2] : [1, 1, 1])))).toMatchObject([
      { code: 'alpha.fringe', safe: true, make: { recipe: 'pad-edges' } },
    ]);
    expect(cut(disc((alpha) => [0.3 * alpha, 0.6 * alpha, 0.2 * alpha]))).toMatchObject([
      { code: 'alpha.premultiplied', safe: false, make: { recipe: 'undo-premultiplied' } },
    ]);
  });
});
