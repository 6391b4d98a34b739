import fc from 'fast-check';
import { expect, it } from 'vitest';
import { classifyNames } from './classifyName.ts';

/** Channels and orders, and how they are spelled. */
const SPELLINGS: Record<string, readonly string[]> = {
  'rgb baseColor': ['BaseColor', 'base_color', 'Albedo', 'diff', 'Color', 'col', 'BC'],
  'rgb normal': ['Normal', 'nrm', 'NormalMap', 'normal_gl', 'Normal_OpenGL', 'norm'],
  'r roughness': ['Roughness', 'rough', 'rgh'],
  'r glossiness': ['Glossiness', 'gloss', 'Smoothness', 'gls'],
  'r metalness': ['Metallic', 'metalness', 'metal', 'mtl'],
  'r occlusion': ['AO', 'Ambient_Occlusion', 'occ'],
  'r height': ['Height', 'disp', 'hgt'],
  'rgb emission': ['Emissive', 'emission', 'glow'],
  'r occlusion, g roughness, b metalness': ['ORM', 'OcclusionRoughnessMetallic', 'ARM'],
  'g roughness, b metalness': ['MetallicRoughness', 'metallic_roughness', 'metalRough'],
  'r metalness, a glossiness': ['MetallicSmoothness', 'MetallicGloss'],
  'rgb baseColor, a opacity': ['AlbedoTransparency', 'albedo_alpha', 'basecolor_opacity'],
};
/** What the maps of a thing hold, in one image each. */
const CONTENTS: readonly (readonly string[])[] = [
  ['rgb baseColor', 'rgb normal', 'r roughness', 'r metalness', 'r occlusion', 'r height'],
  ['rgb baseColor', 'rgb normal', 'r glossiness', 'rgb emission'],
  ['rgb baseColor', 'rgb normal', 'r occlusion, g roughness, b metalness'],
  ['rgb baseColor', 'g roughness, b metalness', 'r occlusion'],
  ['rgb baseColor', 'rgb normal', 'r metalness, a glossiness', 'rgb emission'],
  ['rgb baseColor, a opacity', 'rgb normal', 'r roughness'],
];
/** Things of the quay, many of them called by words that channels have too. */
const THINGS =
  'hull deck crate Rope_Coil rusty_metal metal_gate light_post coat_hook mask_stand rough_rope roof roof_metal wood wood_base base metal paint_blue paint_red depth_sounder color_wheel ambient_speaker berth_07 lamp_glass M_Hull'.split(
    ' ',
  );

/** One way to name all maps of a thing. */
const scheme = fc.record({
  words: fc.tuple(
    ...Object.entries(SPELLINGS).map(([channel, words]) =>
      fc.constantFrom(...words).map((w) => [channel, w]),
    ),
  ),
  prefix: fc.constantFrom('', 'T_', 'tex_'),
  between: fc.constantFrom('_', '-', '.', ' ', '_low_', '_Mat_01_'),
  mark: fc.constantFrom('', '_2k', '_v02', '_sRGB', '.1001'),
  first: fc.boolean(),
});
const parcel = fc.uniqueArray(fc.record({ thing: fc.constantFrom(...THINGS), content: fc.nat(5), scheme }), {
  minLength: 1,
  maxLength: 4,
  selector: ({ thing }) => thing,
});

it('things named by schemes of their own, beside each other in one folder, are told apart and read right', () => {
  const wrong: string[] = [];
  let total = 0;
  for (const things of fc.sample(parcel, { seed: 4_711, numRuns: 600 })) {
    const names = things.flatMap(({ thing, content, scheme: { words, prefix, between, mark, first } }) => {
      const spelled = Object.fromEntries(words);
      return CONTENTS[content].map((channel) => {
        const [a, b] = first ? [spelled[channel], thing] : [thing, spelled[channel]];
        return { thing, channel, path: `t/${prefix}${a}${between}${b}${mark}.png` };
      });
    });
    const classes = classifyNames(names.map(({ path }) => path));
    const sets = new Map<string, string>();
    classes.forEach(({ readings, confidence, set, path }, i) => {
      total += 1;
      if (confidence < 0.8) return;
      const { thing, channel } = names[i];
      const read = readings.map((reading) => `${reading.component} ${reading.channel}`).join(', ');
      const other = sets.get(thing) ?? set;
      sets.set(thing, other);
      if (read !== channel) wrong.push(`${path}: ${read}, not ${channel}`);
      else if (other !== set) wrong.push(`${path} is of "${set}", others of ${thing} are of "${other}"`);
    });
  }
  expect(total).toBeGreaterThan(4_000);
  expect(wrong.length / total, wrong.join('\n')).toBeLessThan(0.001);
});
