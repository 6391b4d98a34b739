import { isColourSpace, SPACES } from '../colour/spaces.ts';
import { fileName } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import type { ColourSpace } from '../scene/material.ts';
import type { ComponentSource, ImageSource } from './plan/planImage.ts';

/** A colour tag for people who do not know our names: `sRGB`, `ACEScg`, `data, not colour`. */
export function colourWords(space: ColourSpace): string {
  return isColourSpace(space) ? SPACES[space].title : 'data, not colour';
}

/** From so many materials on, what is true of each of them is told once. */
const GROUP_FROM = 3;
const NAMED = 4;

/** Lines such as `Oak: the map of normal has no place`, told once for all materials that they are true of. */
export function groupedLines(lines: readonly string[]): string[] {
  const byTail = new Map<string, string[]>();
  for (const line of lines) {
    const index = line.indexOf(': ');
    const tail = index < 0 ? line : line.slice(index + 2);
    byTail.set(tail, [...(byTail.get(tail) ?? []), index < 0 ? '' : line.slice(0, index)]);
  }
  return [...byTail].flatMap(([tail, heads]) => {
    if (heads.length < GROUP_FROM) return heads.map((head) => (head === '' ? tail : `${head}: ${tail}`));
    const more = heads.length > NAMED ? ` and ${heads.length - NAMED} more` : '';
    return [`${tail}: ${heads.slice(0, NAMED).join(', ')}${more}`];
  });
}

/** `roughness from maps/brass_gloss.png, r, inverted`. */
export function componentInWords(source: ComponentSource): string {
  return source.from === 'constant'
    ? withoutMap(source)
    : [`${channelInWords(source.channel)} from ${source.path}`, ...readingInWords(source)].join(', ');
}

/** The same by the file's name alone, and without the component where it stays the one that it was. */
export function componentInBrief(source: ComponentSource, into: string): string {
  if (source.from === 'constant') return withoutMap(source);
  const [part, ...notes] = readingInWords(source);
  return [
    `${channelInWords(source.channel)} from ${fileName(source.path)}`,
    ...(part === into ? [] : [part]),
    ...notes,
  ].join(', ');
}

function withoutMap({ channel, value }: Extract<ComponentSource, { from: 'constant' }>): string {
  return `${channelInWords(channel)} has no map: ${value}`;
}

/** Which component is read, and what is done to its numbers. */
function readingInWords(source: ImageSource): string[] {
  const part = source.component === 'rgb' ? 'rgb'[source.part] : source.component;
  const notes = [
    source.invert && 'inverted',
    (source.gain !== 1 || source.offset !== 0) &&
      `times ${rounded(source.gain)} plus ${rounded(source.offset)}`,
    source.flip && 'direction turned',
    source.strength !== undefined && `strength ${rounded(source.strength)}`,
    source.range && `times ${vector(source.range.scale)} plus ${vector(source.range.bias)}`,
  ].filter((note) => typeof note === 'string');
  return [part, ...notes];
}

function vector(parts: readonly number[]): string {
  return `(${parts.map(rounded).join(', ')})`;
}

function rounded(value: number): string {
  return String(Number(value.toPrecision(4)));
}
