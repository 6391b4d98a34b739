// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import sharp from 'sharp';
import { type OpenAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { applyRules, type RuleSurroundings } from '../rules/applyRules.ts';
import type { Action, Conditions, Rule, Rulebook } from '../rules/rulebook.ts';

/** A text as bytes. */
export const text = (value: string) => new TextEncoder().encode(value);
const data = Buffer.from(Array.from({ length: 16 * 16 * 3 }, (_, i) => 60 + ((i * 37) % 120)));
/** Grains of grey. */
export const png = new Uint8Array(
  await sharp(data, { raw: { width: 16, height: 16, channels: 3 } })
    .png()
    .toBuffer(),
);

const BOX = 'v 0 0 0\nv 2 0 0\nv 2 1 0\nv 0 1 0\nvn 0 0 1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
const FACE = 'f -4/-4/-1 -3/-3/-1 -2/-2/-1 -1/-1/-1\n';
/** An OBJ's square of a name and material. */
export const part = (name: string, material: string) => `o ${name}\n${BOX}usemtl ${material}\n${FACE}`;

/**
 * A lamp of four parts and three materials, its flag with a face upon another; one image is missing where it
 * was written, and lies elsewhere.
 */
export async function lamp(): Promise<OpenAsset> {
  const source = memorySource('Quay lamps', {
    'lamps/lamp_07.obj': text(
      `# Harrow Modeller 3\nmtllib lamp_07.mtl\n${part('Post_1', 'Iron_rough')}${part('Bolt_01', 'Iron_rough')}${part('Pane', 'Pane_glass')}${part('Flag', 'quay_flags')}${FACE}`,
    ),
    'lamps/lamp_07.mtl': text(
      'newmtl Iron_rough\nKd 1 1 1\nmap_Kd P:\\old\\tex\\iron_basecolor.png\nmap_Pr iron_roughness.png\nnewmtl Pane_glass\nKd 0.5 0.6 0.6\nmap_Kd pane_basecolor.png\nnewmtl quay_flags\nKd 0.9 0.1 0.1\n',
    ),
    'textures/iron_basecolor.png': png,
    'lamps/iron_roughness.png': png,
    'lamps/pane_basecolor.png': png,
  });
  return openAsset(source, 'lamps/lamp_07.obj');
}

/** A rule that is called what it says. */
export const rule = (when: Conditions, ...then: Action[]): Rule => ({
  name: JSON.stringify([when, then]),
  when,
  then,
});
/** Rules as a book, by their numbers. */
export const bookOf = (...rules: Rule[]): Rulebook => ({
  rulebook: 1,
  title: 'Quay props',
  rules: rules.map((one, i) => ({ ...one, name: `${i + 1}` })),
});

/** What rules do to the lamp. */
export const applyToLamp = async (rules: Rule[], surroundings: Partial<RuleSurroundings> = {}) =>
  applyRules(await lamp(), [bookOf(...rules)], { parcel: 'Quay lamps', ...surroundings });
