import { describe, expect, it } from 'vitest';
import { mendAsset } from '../../inspect.ts';
import type { Material } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { look, type Paint } from '../../test/sets.ts';

const hues: Paint = (x, y) => [200 - x, 90 + y, 40];

describe('what a classic material has for want of slots', () => {
  const greys: Paint = (x, y) => Array(3).fill((x * 3 + y) & 255);
  const twos: Paint = (x) => Array(3).fill(x < 20 ? 0 : 255);
  const bumps: Paint = (x, y) => [128 + ((x * 13) % 40) - 20, 128 + ((y * 17) % 40) - 20, 250];
  const classic = (workflow: Material['workflow'], maps: Record<string, string>) =>
    Object.assign(testMaterial('Hull', maps), { workflow, exponent: workflow === 'legacy' ? 30 : null });
  const after = (material: Material, paints: Record<string, Paint>) => {
    const paths = Object.keys(paints);
    const { source, files, known } = look({ materials: [material], paths, paints });
    const { state, findings } = mendAsset(source, files, 'safe', known);
    const [{ workflow, exponent, channels }] = state.materials;
    const reads = Object.entries(channels).map(([channel, { map }]) =>
      [channel, map?.image.replace('parcel:', ''), map?.component, ...(map?.invert ? ['inverted'] : [])].join(
        ' ',
      ),
    );
    const left = findings.filter(({ severity }) => severity !== 'note').map(({ code }) => code);
    return { workflow, exponent, reads: reads.sort(), left };
  };
  const names = (suffixes: readonly string[]) => suffixes.map((suffix) => `hull_${suffix}.png`);

  it.each([
    ['basecolor', 'metallic', 'roughness', 'normal'],
    ['col', 'met', 'rgh', 'nrm'],
  ])('is put where its names say, in the model that they are of: %s, %s, %s, %s', (...suffixes) => {
    const [base, metal, rough, normal] = names(suffixes);
    const maps = { baseColor: base, specularColor: metal, glossiness: rough, bump: normal };
    const paints = { [base]: hues, [metal]: twos, [rough]: greys, [normal]: bumps };
    expect(after(classic('specGloss', maps), paints)).toEqual({
      workflow: 'metalRough',
      exponent: null,
      reads: [
        `baseColor ${base} rgb`,
        `metalness ${metal} r`,
        `normal ${normal} rgb`,
        `roughness ${rough} r`,
      ],
      left: [],
    });
  });

  it('keeps its exponent where it has no other roughness, and its model beside true gloss', () => {
    const [base, metal, normal] = names(['basecolor', 'metallic', 'normal']);
    const maps = { baseColor: base, specularColor: metal, normal };
    const { workflow, exponent } = after(classic('legacy', maps), {
      [base]: hues,
      [metal]: twos,
      [normal]: bumps,
    });
    expect([workflow, exponent]).toEqual(['metalRough', 30]);
    const [diffuse, specular, rough] = names(['diffuse', 'specular', 'roughness']);
    const glossy = classic('specGloss', { baseColor: diffuse, specularColor: specular, glossiness: rough });
    const told = after(glossy, { [diffuse]: hues, [specular]: hues, [rough]: greys });
    expect([told.workflow, told.reads]).toEqual([
      'specGloss',
      [`baseColor ${diffuse} rgb`, `glossiness ${rough} r inverted`, `specularColor ${specular} rgb`],
    ]);
  });

  it('is roughness too where metalness of its set lies in the parcel', () => {
    const [base, metal, rough] = names(['basecolor', 'metallic', 'roughness']);
    const material = classic('legacy', { baseColor: base, glossiness: rough });
    expect(after(material, { [base]: hues, [metal]: twos, [rough]: greys }).reads).toEqual([
      `baseColor ${base} rgb`,
      `metalness ${metal} r`,
      `roughness ${rough} r`,
    ]);
  });

  it('is roughness too beside metalness that it reads of another set', () => {
    const [base, rough] = names(['basecolor', 'roughness']);
    const other = 'trim_metallic.png';
    const material = classic('legacy', { baseColor: base, metalness: other, glossiness: rough });
    expect(after(material, { [base]: hues, [other]: twos, [rough]: greys }).reads).toContain(
      `roughness ${rough} r`,
    );
  });

  it('leaves the model as it is where no metalness comes of it', () => {
    const [base, occlusion] = names(['basecolor', 'occlusion']);
    const material = classic('legacy', { baseColor: base, specularColor: occlusion });
    const { workflow, reads } = after(material, { [base]: hues, [occlusion]: greys });
    expect([workflow, reads]).toEqual(['legacy', [`baseColor ${base} rgb`, `occlusion ${occlusion} r`]]);
  });

  it('is left to a person where a short name stands alone', () => {
    const [base, metal] = names(['basecolor', 'met']);
    const { reads, left } = after(classic('legacy', { baseColor: base, specularColor: metal }), {
      [base]: hues,
      [metal]: twos,
    });
    expect(reads).toContain(`specularColor ${metal} rgb`);
    expect(left).toEqual(['slot.contradiction']);
  });
});

describe('one image in many slots', () => {
  const wired = (maps: Record<string, string | object>, paint: Paint) => {
    const material = testMaterial('Leaf', maps as Parameters<typeof testMaterial>[1]);
    const { findings } = look({ materials: [material], paths: ['leaf.png'], paints: { 'leaf.png': paint } });
    return findings
      .filter(({ code }) => code === 'slot.pixels')
      .map(({ severity, target, safe, mend, choices }) => [
        severity,
        target.channel,
        safe,
        mend?.kind === 'adjustSlots' ? mend.change : choices?.map(({ id }) => id),
      ]);
  };
  const red = { image: 'leaf.png', component: 'r' };

  it('has its coverage in the alpha, or none where that is full', () => {
    const maps = { baseColor: 'leaf.png', opacity: red };
    expect(wired(maps, (x, y) => [...hues(x, y), x < 30 ? 0 : 255])).toEqual([
      ['warning', 'opacity', true, { component: 'a', invert: false }],
    ]);
    for (const full of [hues, (x: number, y: number) => [...hues(x, y), 255]])
      expect(wired(maps, full)).toEqual([['warning', 'opacity', false, ['clear']]]);
    expect(wired({ ...maps, opacity: { ...red, component: 'a' } }, (x, y) => [...hues(x, y), x * 4])).toEqual(
      [],
    );
  });

  it('is no relief and no roughness where it is colourful, and all of it shines where it is wired so', () => {
    expect(wired({ baseColor: 'leaf.png', bump: red }, hues)).toEqual([
      ['warning', 'bump', false, ['clear']],
    ]);
    const everywhere = { baseColor: 'leaf.png', specularColor: 'leaf.png', emission: 'leaf.png' };
    expect(wired(everywhere, hues)).toEqual([['note', 'emission', false, ['clear']]]);
    expect(wired({ baseColor: 'leaf.png', emission: 'leaf.png' }, hues)).toEqual([]);
    // A scalar that is called so may have a tinge of colour.
    const tinged = testMaterial('Hull', { baseColor: 'hull_color.png', roughness: 'hull_roughness.png' });
    const paths = ['hull_color.png', 'hull_roughness.png'];
    const paints = Object.fromEntries(paths.map((path) => [path, hues]));
    expect(
      look({ materials: [tinged], paths, paints }).findings.filter(({ step }) => step === 'slots'),
    ).toEqual([]);
    // As exporters do that know one slot for both.
    const both = { roughness: { ...red, component: 'g' }, metalness: { ...red, component: 'b' } };
    expect(
      wired({ baseColor: 'leaf.png', ...both }, hues).map(([severity, channel]) => [severity, channel]),
    ).toEqual([
      ['warning', 'roughness'],
      ['warning', 'metalness'],
    ]);
    expect(wired(both, hues)).toEqual([]);
    expect(wired({ baseColor: 'leaf.png', roughness: { ...red, component: 'luminance' } }, hues)).toEqual([]);
    // What is packed is colourful, and feeds scalars alone.
    const packed = { roughness: red, metalness: { ...red, component: 'b' } };
    expect(wired(packed, hues)).toEqual([]);
  });
});

describe('an image of another set', () => {
  const told = (base: string, others: Record<string, string>, more: string[] = [], lent = '') => {
    const hull = testMaterial('Hull', { baseColor: base, ...others });
    const deck = testMaterial('Deck', {
      roughness: 'deck_roughness.png',
      ...(lent ? { baseColor: lent } : {}),
    });
    const paths = ['deck_basecolor.png', 'deck_roughness.png', ...Object.values(others), ...more];
    const paints = Object.fromEntries(paths.filter((path) => /color/.test(path)).map((path) => [path, hues]));
    return look({ materials: [hull, deck], paths, paints })
      .findings.filter(({ code }) => code === 'slot.contradiction')
      .map(({ safe, message, mend }) => [
        safe,
        message,
        mend?.kind === 'assignSlots' &&
          mend.assignments.map(({ channel, image, space }) => [channel, image, space]),
      ]);
  };
  const own = { roughness: 'hull_roughness.png', normal: 'hull_normal.png' };

  it('is told where the own one lies unread', () => {
    expect(told('deck_basecolor.png', own, ['hull_basecolor.png'])).toEqual([
      [
        false,
        'deck_basecolor.png feeds base colour of Hull, whose other images are of hull; hull_basecolor.png is read by nothing.',
        [['baseColor', 'hull_basecolor.png', 'srgb_rec709_scene']],
      ],
    ]);
  });

  it('is shared where there is no own one, and no stray where most are of no set', () => {
    expect(told('deck_basecolor.png', own)).toEqual([]);
    expect(told('deck_basecolor.png', { roughness: 'hull_roughness.png' }, ['hull_basecolor.png'])).toEqual(
      [],
    );
    const both = ['hull_basecolor.png'];
    expect(told('deck_basecolor.png', own, both, 'hull_basecolor.png')).toEqual([]);
    // Another size of the own one.
    expect(told('hull_basecolor_1k.png', own, ['hull_basecolor.png', 'hull_basecolor_1k.png'])).toEqual([]);
  });
});
