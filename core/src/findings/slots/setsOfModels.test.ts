import { describe, expect, it } from 'vitest';
import { groundOf } from '../../asset/ownImages.ts';
import { replay } from '../../edits/log.ts';
import { mendAsset } from '../../inspect.ts';
import type { Material } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { bare, type Case, look, mended, type Paint, readings } from '../../test/sets.ts';
import { findFindings } from '../checks.ts';

describe('alpha, gloss and several shading models', () => {
  const channelsOf = (of: Case, name: string) => {
    const { source, files: all, known: existing } = look(of);
    return mendAsset(source, all, 'safe', existing).state.materials.find(
      ({ key }) => key === name,
    ) as Material;
  };
  const noise: Paint = (x, y) => [90 + ((x * 31 + y * 17) % 120), 40 + ((x * 7 + y * 13) % 90), 30];

  it('believes an alpha only where the image has one', () => {
    const paths = ['Hull_AlbedoTransparency.png', 'Hull_Normal.png'];
    const with4 =
      (alpha: number): Paint =>
      (x, y) => [...noise(x, y), y % 9 < 4 ? alpha : 255];
    const of = (paint: Paint): Case => ({ materials: bare('Hull'), paths, paints: { [paths[0]]: paint } });
    expect(channelsOf(of(noise), 'Hull').channels.opacity).toBeUndefined();
    expect(channelsOf(of(with4(255)), 'Hull').channels.opacity).toBeUndefined();
    expect(channelsOf(of(with4(0)), 'Hull').channels.opacity?.map).toMatchObject({ component: 'a' });
    expect(channelsOf(of(with4(0)), 'Hull').alphaMode).toBe('mask');
  });

  it('keeps the alpha of an image whose colour is one value', () => {
    const material = testMaterial('Hull', { baseColor: 'hull_color.png' });
    const plain: Case = {
      materials: [material],
      paths: ['hull_color.png'],
      paints: { 'hull_color.png': (x) => [80, 120, 60, x % 16 < 8 ? 255 : 0] },
    };
    const { channels, alphaMode } = channelsOf(plain, 'Hull');
    expect([channels.opacity?.map?.component, alphaMode]).toEqual(['a', 'mask']);
  });

  it('reads gloss as roughness inverted, from packed images too', () => {
    const paths = ['Hull_Albedo.png', 'Hull_MetallicSmoothness.png'];
    const packed: Paint = (x, y) => [
      x % 2 ? 255 : 0,
      x % 2 ? 255 : 0,
      x % 2 ? 255 : 0,
      (x * 3 + y * 5) % 256,
    ];
    const { channels } = channelsOf(
      { materials: bare('Hull'), paths, paints: { [paths[0]]: noise, [paths[1]]: packed } },
      'Hull',
    );
    expect(channels.roughness?.map).toMatchObject({ component: 'a', invert: true });
    expect(channels.metalness?.map).toMatchObject({ component: 'r', invert: false });
  });

  it('turns a material to spec/gloss for a set that is painted so, and takes metal/rough of two models', () => {
    const specGloss = channelsOf(
      { materials: bare('Hull'), paths: ['hull_diffuse.png', 'hull_specular.png', 'hull_gloss.png'] },
      'Hull',
    );
    expect([specGloss.workflow, Object.keys(specGloss.channels).sort()]).toEqual([
      'specGloss',
      ['baseColor', 'glossiness', 'specularColor'],
    ]);
    const both = [
      'hull_basecolor.png',
      'hull_metallic.png',
      'hull_roughness.png',
      'hull_diffuse.png',
      'hull_specular.png',
      'hull_glossiness.png',
    ];
    const { source, files: all, known: cached } = look({ materials: bare('Hull'), paths: both });
    const { state } = mendAsset(source, all, 'safe', cached);
    expect(readings(state).sort()).toEqual([
      'Hull baseColor: hull_basecolor.png',
      'Hull metalness: hull_metallic.png',
      'Hull roughness: hull_roughness.png',
    ]);
  });

  const METAL = ['basecolor', 'metallic', 'roughness'];
  const GLOSS = ['diffuse', 'specular', 'glossiness'];
  it.each<[string, string[], string[]]>([
    ['side by side', METAL.map((word) => `hull_${word}.png`), GLOSS.map((word) => `hull_${word}.png`)],
    [
      'in two folders',
      METAL.map((word) => `mr/hull_${word}.png`),
      GLOSS.map((word) => `sg/hull_${word}.png`),
    ],
    [
      'in two folders with one base colour each',
      METAL.map((word) => `mr/hull_${word}.png`),
      ['basecolor', 'specular', 'glossiness'].map((word) => `sg/hull_${word}.png`),
    ],
  ])(
    'never mixes two shading models %s: the one is taken, the other offered as a whole',
    (_, metal, gloss) => {
      const of = { materials: bare('Hull'), paths: [...metal, ...gloss] };
      const slots = (channels: string[], paths: string[]) =>
        channels.map((channel, i) => `Hull ${channel}: ${paths[i]}`).sort();
      const asMetal = slots(['baseColor', 'metalness', 'roughness'], metal);
      const asGloss = slots(['baseColor', 'specularColor', 'glossiness'], gloss);
      expect(mended(of).sort()).toEqual(asMetal);
      expect(mended({ ...of, knowledge: { prefers: 'specGloss' } }).sort()).toEqual(asGloss);

      const { source, files: all, known } = look(of);
      const safe = mendAsset(source, all, 'safe', known);
      const offer = safe.findings.find(({ code }) => code === 'slot.otherModel');
      const taken = replay(source, [...safe.edits, ...(offer?.choices?.[0].edits ?? [])], all).state;
      expect(readings(taken).sort()).toEqual(asGloss);
      expect(taken.materials[0].workflow).toBe('specGloss');
      // And back again.
      const back = findFindings(source, taken, all, known).find(({ code }) => code === 'slot.otherModel');
      expect(
        readings(
          replay(
            source,
            [...safe.edits, ...(offer?.choices?.[0].edits ?? []), ...(back?.choices?.[0].edits ?? [])],
            all,
          ).state,
        ).sort(),
      ).toEqual(asMetal);
    },
  );

  it('fills up the shading model that a material has begun with', () => {
    const [base, specular] = ['hull_diffuse.png', 'hull_specular.png'];
    const paths = [...METAL, ...GLOSS].map((word) => `hull_${word}.png`);
    const material = testMaterial('Hull', { baseColor: base, specularColor: specular });
    material.workflow = 'legacy';
    expect(mended({ materials: [material], paths }).sort()).toEqual([
      'Hull baseColor: hull_diffuse.png',
      'Hull glossiness: hull_glossiness.png',
      'Hull specularColor: hull_specular.png',
    ]);
  });

  it('asks where the name states a direction that the slopes belie, and takes the answer', () => {
    // h = 2 sin(x/5) + 2 cos(y/7) + sin((x+y)/4), y downwards, green up.
    const bumps: Paint = (x, y) => {
      const both = 0.25 * Math.cos((x + y) / 4);
      const [dx, up] = [0.4 * Math.cos(x / 5) + both, (2 / 7) * Math.sin(y / 7) - both];
      const length = Math.hypot(dx, up, 1);
      return [127.5 * (1 - dx / length), 127.5 * (1 - up / length), 127.5 * (1 + 1 / length)].map(Math.round);
    };
    const of: Case = {
      materials: bare('Hull'),
      paths: ['hull_color.png', 'hull_normal_dx.png'],
      paints: { 'hull_normal_dx.png': bumps },
    };
    const { source, files: all, known } = look(of);
    const safe = mendAsset(source, all, 'safe', known);
    expect(safe.state.materials[0].channels.normal?.map?.normalY).toBe('Y-');
    const question = safe.findings.find(({ code }) => code === 'normal.direction');
    expect([question?.safe, question?.choices?.map(({ id }) => id)]).toEqual([false, ['Y+', 'Y-']]);
    for (const choice of question?.choices ?? []) {
      const { state } = replay(source, [...safe.edits, ...choice.edits], all);
      expect(state.materials[0].channels.normal?.map?.normalY).toBe(choice.id);
      expect(
        findFindings(source, state, all, known).filter(({ code }) => code === 'normal.direction'),
      ).toEqual([]);
    }
  });

  it('never empties a slot on pixel evidence alone', () => {
    const material = testMaterial('Hull', { baseColor: 'a.png', roughness: 'b.png' });
    const of: Case = {
      materials: [material],
      paths: ['a.png', 'b.png'],
      paints: { 'a.png': noise, 'b.png': noise },
    };
    const { source, files: all, known, findings } = look(of);
    const pixels = findings.find(({ code }) => code === 'slot.pixels');
    expect([pixels?.mend, pixels?.choices?.map(({ id }) => id)]).toEqual([null, ['clear']]);
    expect(mendAsset(source, all, 'all', known).state.materials[0].channels.roughness?.map).toBeTruthy();
  });
});

describe('images that several may share', () => {
  it('are added to all that are called so: normals of one shape in three colours', () => {
    const colours = ['marker_red', 'marker_blue', 'marker_green'];
    const paths = [...colours.map((name) => `${name}_diffuse.png`), 'marker_normal.png'];
    const found = mended({ materials: bare(...colours), paths });
    expect(found.filter((text) => text.endsWith(' normal: marker_normal.png'))).toHaveLength(3);
    expect(found.filter((text) => text.includes(' baseColor: '))).toHaveLength(3);
    // One of a kind is no several, and what has a colour is a thing.
    expect(
      mended({ materials: bare('Rope_red'), paths: ['rope_red_diffuse.png', 'rope_normal.png'] }),
    ).toEqual(['Rope_red baseColor: rope_red_diffuse.png']);
    const whole = mended({ materials: bare(...colours), paths: [...paths, 'marker_diffuse.png'] });
    expect(whole.filter((text) => text.endsWith('marker_normal.png'))).toEqual([]);
    // Who is called so by name has it alone.
    const own = mended({ materials: bare(...colours, 'Marker'), paths: [...paths, 'marker_rough.png'] });
    expect(own.filter((text) => text.endsWith('marker_normal.png'))).toEqual([
      'Marker normal: marker_normal.png',
    ]);
  });

  it('are asked about where a model without any lies below another that has some', () => {
    const models = ['door/door.obj', 'door/flip/door.obj', 'crate/crate.obj'];
    const images = ['door/color.png', 'door/normal.png', 'crate/color.png'];
    const ground = groundOf(models[1], models, images);
    expect(ground).toEqual({ home: 'door/flip', lender: 'door' });
    expect(groundOf(models[0], models, images)).toEqual({ home: 'door' });
    expect(groundOf(models[1], models, [...images, 'door/flip/color.png'])).toEqual({ home: 'door/flip' });
    // Where nobody lives the images are anybody's.
    expect(
      groundOf(
        'a/door/door.obj',
        ['a/door/door.obj', 'a/crate/crate.obj'],
        ['a/wood.png', 'a/crate/color.png'],
      ),
    ).toEqual({
      home: 'a/door',
      commons: ['a'],
    });
    const of: Case = {
      materials: bare('Material'),
      paths: [...images, 'door/door_id.png'],
      source: { ...ground, name: 'door' },
    };
    expect(mended(of)).toEqual([]);
    const asked = look(of).findings.filter(({ code }) => code === 'set.ambiguous');
    expect(asked.flatMap(({ choices }) => choices?.map(({ images }) => images))).toEqual([
      ['door/color.png', 'door/normal.png'],
    ]);
    // What nobody reads there is another's affair.
    expect(look(of).findings.map(({ code }) => code)).not.toContain('map.unused');
  });
});

describe('what a finished model leaves out', () => {
  it('is asked about where it would be another shading model, and filled where it would not', () => {
    const paths = ['gate_diffuse.png', 'gate_specular.png', 'gate_normal.png'];
    const gate = testMaterial('gate', { baseColor: paths[0] });
    gate.workflow = 'metalRough';
    expect(mended({ materials: [gate], paths })).toEqual([
      'gate baseColor: gate_diffuse.png',
      'gate normal: gate_normal.png',
    ]);
    const asked = look({ materials: [gate], paths }).findings.filter(
      ({ code, safe }) => code === 'slot.candidate' && !safe,
    );
    expect(asked.map(({ target }) => target)).toMatchObject([{ channel: 'specularColor', image: paths[1] }]);
    // A classic one has a place for it.
    const classic = { ...gate, workflow: 'legacy' as const };
    expect(mended({ materials: [classic], paths })).toContain('gate specularColor: gate_specular.png');
  });

  it('a number that a program gave is no name for what lies with no model', () => {
    const paths = ['frames/0001.png', 'frames/0002.png'];
    const materials = bare('Material.001', 'Material.002');
    const codes = (source: Case['source']) =>
      look({ materials, paths, source }).findings.map(({ code }) => code);
    expect(codes({ home: 'crate', commons: ['frames'] })).not.toContain('set.ambiguous');
    expect(codes({ home: 'crate', commons: ['frames'] })).not.toContain('slot.candidate');
    expect(codes({})).toContain('slot.candidate');
  });

  it('the folder of an asset is no name for images that have one', () => {
    const of = (path: string, name: string): Case => ({
      materials: bare('pot', 'soil'),
      paths: [path],
      source: { name },
    });
    expect(mended(of('pot/palm_color.png', 'pot'))).toEqual([]);
    expect(mended(of('pot/color.png', 'pot'))).toEqual(['pot baseColor: pot/color.png']);
    expect(mended(of('pot/palm_color.png', 'garden'))).toEqual(['pot baseColor: pot/palm_color.png']);
  });
});
