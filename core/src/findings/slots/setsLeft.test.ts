import { describe, expect, it } from 'vitest';
import type { AssetState } from '../../asset/asset.ts';
import { replay } from '../../edits/log.ts';
import { mendAsset } from '../../inspect.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { bare, type Case, files, look, mended, type Paint } from '../../test/sets.ts';
import { findFindings } from '../checks.ts';

describe('what is left', () => {
  it('asks once about an opacity that contradicts itself, and no more once it is settled', () => {
    const glass = testMaterial('Pane');
    glass.channels.opacity = { value: 0.22, map: null, source: { from: 'file', detail: 'd' } };
    glass.alphaMode = 'blend';
    const remark = {
      code: 'read.opacityContradiction',
      severity: 'warning' as const,
      subject: 'Pane',
      message: 'd is 0.22 and Tr is 0.22',
      count: 1,
    };
    const {
      source,
      files: all,
      known: existing,
      findings,
    } = look({ materials: [glass], paths: [], source: { remarks: [remark] } });
    const question = findings.find(({ code }) => code === remark.code);
    expect(question?.choices?.map(({ label }) => label)).toEqual(['Opaque', 'Opacity 0.22']);
    for (const [i, mode, value] of [
      [0, 'opaque', 1],
      [1, 'blend', 0.22],
    ] as const) {
      const { state } = replay(source, question?.choices?.[i].edits ?? [], all);
      expect([state.materials[0].alphaMode, state.materials[0].channels.opacity?.value]).toEqual([
        mode,
        value,
      ]);
      expect(findFindings(source, state, all, existing).map(({ code }) => code)).not.toContain(remark.code);
    }
  });

  it('asks once for all materials whose opacities contradict themselves', () => {
    const panes = ['Pane', 'Door', 'Roof'].map((name, i) => {
      const material = testMaterial(name);
      material.channels.opacity = {
        value: [0.22, 0.22, 0.4][i],
        map: null,
        source: { from: 'file', detail: 'd' },
      };
      material.alphaMode = 'blend';
      return material;
    });
    const remarks = panes.map(({ name }) => ({
      code: 'read.opacityContradiction',
      severity: 'warning' as const,
      subject: name,
      message: 'd and Tr cannot both hold',
      count: 1,
    }));
    const {
      source,
      files: all,
      known: cached,
      findings,
    } = look({ materials: panes, paths: [], source: { remarks } });
    const questions = findings.filter(({ code }) => code === 'read.opacityContradiction');
    expect(questions).toHaveLength(1);
    expect(questions[0].choices?.map(({ label }) => label)).toEqual(['Opaque', 'As taken from the file']);
    const [opaque, taken] = (questions[0].choices ?? []).map(({ edits }) => replay(source, edits, all).state);
    const opacities = (state: AssetState) =>
      state.materials.map(({ channels, alphaMode }) => [alphaMode, channels.opacity?.value]);
    expect(opacities(opaque)).toEqual(Array(3).fill(['opaque', 1]));
    expect(opacities(taken)).toEqual([0.22, 0.22, 0.4].map((value) => ['blend', value]));
    for (const state of [opaque, taken])
      expect(findFindings(source, state, all, cached).map(({ code }) => code)).not.toContain(
        'read.opacityContradiction',
      );
    // One that was settled by itself leaves the others open.
    const { state } = replay(
      source,
      [
        {
          kind: 'setAlpha',
          materials: ['Pane'],
          change: { opacity: 1, alphaMode: 'opaque' },
          origin: { from: 'hand', detail: '' },
        },
      ],
      all,
    );
    const [rest] = findFindings(source, state, all, cached).filter(
      ({ code }) => code === 'read.opacityContradiction',
    );
    expect(rest.evidence.map((line) => line.split(':')[0])).toEqual(['Door', 'Roof']);
  });

  it('tells a material that lacks what its siblings have', () => {
    const full = ['A', 'B', 'C'].map((name) =>
      testMaterial(name, { baseColor: `${name}_c.png`, normal: `${name}_n.png` }),
    );
    const poor = testMaterial('D', { baseColor: 'D_c.png' });
    const { findings } = look({
      materials: [...full, poor],
      paths: ['A_c.png', 'A_n.png', 'B_c.png', 'B_n.png', 'C_c.png', 'C_n.png', 'D_c.png'],
    });
    const lacking = findings.filter(({ code }) => code === 'slot.lacking');
    expect(
      lacking.map(({ subject, severity, target }) => [subject, severity, target.channel as ChannelName]),
    ).toEqual([['D', 'note', 'normal']]);
  });
});

describe('evidence beside names', () => {
  const strip = (from: number, to: number) => {
    let cells = '';
    for (let row = 0; row < 64; row += 1)
      for (let column = 0; column < 64; column += 4) cells += column >= from && column < to ? 'f' : '0';
    return { cells, repeats: 0 };
  };

  it('shares one atlas only where layouts lie beside each other', () => {
    const of = (second: ReturnType<typeof strip>): Case => ({
      materials: bare('Material.001', 'Material.002'),
      paths: files('kit'),
      source: { uvLayouts: { 'Material.001': strip(0, 28), 'Material.002': second } },
    });
    expect(mended(of(strip(36, 64)))).toHaveLength(4);
    expect(mended(of(strip(8, 40)))).toEqual([]);
  });

  it('takes the folder that other materials read from, among rivals', () => {
    const hull = testMaterial('Hull', { baseColor: 'dry/hull_color.png' });
    const found = mended({
      materials: [hull, ...bare('Deck')],
      paths: ['dry/hull_color.png', 'wet/deck_color.png', 'dry/deck_color.png'],
    });
    expect(found).toContain('Deck baseColor: dry/deck_color.png');
  });

  it('asks which of two images of one name completes a set', () => {
    const hull = testMaterial('Paint', { normal: 'hull_normal.png' });
    const of: Case = {
      materials: [hull],
      paths: ['hull_normal.png', 'dry/hull_color.png', 'wet/hull_color.png'],
    };
    expect(mended(of)).toEqual(['Paint normal: hull_normal.png']);
    expect(look(of).findings.find(({ code }) => code === 'set.ambiguous')?.choices).toHaveLength(2);
  });

  it('asks which variant a material wears, of that material and of no other', () => {
    const of: Case = {
      materials: bare('Paint', 'Tyre', 'Chrome'),
      paths: [
        'cart_paint_normal.png',
        'cart_paint_red_color.png',
        'cart_paint_blue_color.png',
        'cart_tyre_color.png',
        'cart_tyre_normal.png',
      ],
    };
    expect(mended(of)).toEqual([
      'Paint normal: cart_paint_normal.png',
      'Tyre baseColor: cart_tyre_color.png',
      'Tyre normal: cart_tyre_normal.png',
    ]);
    const questions = look(of).findings.filter(({ code }) => code === 'set.ambiguous');
    expect(questions.map(({ subject, choices }) => [subject, choices?.map(({ images }) => images)])).toEqual([
      ['Paint', [['cart_paint_blue_color.png'], ['cart_paint_red_color.png']]],
    ]);
  });

  it('asks about a variant beside what is plain, unless that fills the channel, and of the nearest name', () => {
    const asked = (paths: string[], materials: Material[]) =>
      look({ materials, paths })
        .findings.filter(({ code }) => code === 'set.ambiguous')
        .map(({ subject }) => subject);
    const mast = testMaterial('Mast', { normal: 'mast_normal.png' });
    const dressed = ['mast_normal.png', 'T_Mast_ao.png'];
    expect(asked([...dressed, 'mast_red_color.png', 'mast_blue_color.png'], [mast])).toEqual(['Mast']);
    expect(asked([...dressed, 'mast_red_ao.png', 'mast_blue_ao.png'], [mast])).toEqual([]);
    // It is as near to either name, and no reason to ask twice.
    const both = ['paint_normal.png', 'red_normal.png', 'paint_red_color.png'];
    expect(asked(both, bare('Paint', 'Red'))).toEqual(['Paint']);
  });

  it('takes the newest of versions that show the same, before larger ones', () => {
    const paint: Paint = (x, y) => [90 + x, 90 + y, 60];
    const paths = ['sail_color_v02.png', 'sail_color_v03.png', 'sail_normal_v03.png'];
    const found = mended({
      materials: bare('Sail'),
      paths,
      paints: { [paths[0]]: paint, [paths[1]]: paint },
    });
    expect(found).toEqual(['Sail baseColor: sail_color_v03.png', 'Sail normal: sail_normal_v03.png']);
  });

  it('asks about a specular colour beside metalness and roughness', () => {
    const paths = ['color', 'roughness', 'metalness', 'spec'].map((word) => `hull_${word}.png`);
    expect(mended({ materials: bare('Hull'), paths })).toEqual([
      'Hull baseColor: hull_color.png',
      'Hull metalness: hull_metalness.png',
      'Hull roughness: hull_roughness.png',
    ]);
    expect(mended({ materials: bare('Hull'), paths: [paths[0], paths[1], paths[3]] })).toContain(
      'Hull specularColor: hull_spec.png',
    );
  });

  it('leaves a map of one value alone where somebody set the value, and not where the file has one', () => {
    const paths = ['hull_color.png', 'hull_roughness.png'];
    const of = (from: 'hand' | 'file' | null): Case => {
      const [hull] = bare('Hull');
      if (from) hull.channels.roughness = { value: 0.3, map: null, source: { from, detail: '' } };
      return { materials: [hull], paths, paints: { [paths[1]]: () => [128] } };
    };
    // A map of one value becomes its value in the end.
    const roughness = (given: Case) => {
      const { source, files: all, known } = look(given);
      return mendAsset(source, all, 'safe', known).state.materials[0].channels.roughness;
    };
    expect(roughness(of('hand'))).toMatchObject({ value: 0.3, map: null });
    for (const from of ['file', null] as const) {
      expect(roughness(of(from))?.value).toBeCloseTo(128 / 255, 6);
      expect(roughness(of(from))?.map).toBeNull();
    }
  });

  it('knows by the pixels what a letter of two meanings stands for', () => {
    const paths = ['kelp_d.png', 'kelp_n.png', 'kelp_a.png'];
    const cut: Paint = (x, y) => Array(3).fill((x >> 3) % 2 === (y >> 3) % 2 ? 255 : 0);
    const shade: Paint = (x, y) => Array(3).fill(140 + Math.round(50 * Math.sin(x / 5) * Math.cos(y / 7)));
    const of = (paint?: Paint): Case => ({
      materials: bare('Kelp'),
      paths,
      paints: paint ? { 'kelp_a.png': paint } : {},
    });
    expect(mended(of(cut))).toContain('Kelp opacity: kelp_a.png');
    for (const paint of [shade, undefined])
      expect(mended(of(paint))).toEqual(['Kelp baseColor: kelp_d.png', 'Kelp normal: kelp_n.png']);
  });

  it('tells slots of one lost path apart by the sets of their materials', () => {
    const lost = (name: string) => testMaterial(name, { baseColor: 'x/albedo_v1.png' });
    const found = mended({
      materials: [lost('Hull'), lost('Deck')],
      missing: ['x/albedo_v1.png'],
      paths: ['hull/albedo_v2.png', 'deck/albedo_v2.png'],
    });
    expect(found).toEqual(['Hull baseColor: hull/albedo_v2.png', 'Deck baseColor: deck/albedo_v2.png']);
  });

  it('believes glTF where it states that alpha does not count', () => {
    const paint: Paint = (x, y) => [90 + ((x * 31 + y * 17) % 120), 60, 30, y % 9 < 4 ? 0 : 255];
    const severity = (format: 'gltf' | 'obj') =>
      look({
        materials: [testMaterial('Leaf', { baseColor: 'leaf_color.png' })],
        paths: ['leaf_color.png'],
        paints: { 'leaf_color.png': paint },
        source: { format },
      })
        .findings.filter(({ code }) => code === 'alpha.ignored')
        .map((finding) => [finding.severity, finding.safe]);
    expect([severity('gltf'), severity('obj')]).toEqual([[['note', false]], [['warning', true]]]);
  });

  it('lets what glows be painted black', () => {
    const codesOf = (maps: Parameters<typeof testMaterial>[1]) =>
      look({
        materials: [testMaterial('Bulb', maps)],
        paths: ['bulb_color.png', 'bulb_glow.png'],
        paints: { 'bulb_color.png': (x) => [x % 3, 1, 2] },
      }).findings.map(({ code }) => code);
    expect(codesOf({ baseColor: 'bulb_color.png' })).toContain('colour.albedoRange');
    expect(codesOf({ baseColor: 'bulb_color.png', emission: 'bulb_glow.png' })).not.toContain(
      'colour.albedoRange',
    );
  });
});
