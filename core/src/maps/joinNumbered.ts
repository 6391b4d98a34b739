import type { NameClass, OpenName } from './nameClass.ts';

/** Fewer names may be numbered things. */
const FEWEST = 3;

/**
 * Numbers that count the channels of one thing, and no things: `hull_1_color`, `hull_2_normal`,
 * `hull_3_roughness`. Names that differ in one number, each of which stands beside other channels, are one
 * set.
 */
export function joinNumbered(names: readonly OpenName[], classes: readonly NameClass[]): NameClass[] {
  const joined = new Map<number, string>();
  for (const group of numberedAlike(names, classes)) {
    if (!countsChannels(group, classes)) continue;
    for (const { index, set } of group) joined.set(index, set);
  }
  return classes.map((nameClass, i) => {
    const set = joined.get(i);
    return set === undefined ? nameClass : { ...nameClass, set };
  });
}

interface Numbered {
  /** Place in the list of names. */
  index: number;
  number: string;
  /** Without the number. */
  set: string;
}

/** Names whose sets are equal but for one number in the same place. */
function numberedAlike(names: readonly OpenName[], classes: readonly NameClass[]): Numbered[][] {
  const groups = new Map<string, Numbered[]>();
  for (const [index, { set, readings }] of classes.entries()) {
    if (readings.length === 0) continue;
    const words = set.split(' ');
    for (const [place, number] of words.entries()) {
      if (!/^\d{1,2}$/.test(number) || words.length < 2) continue;
      const rest = words.toSpliced(place, 1).join(' ');
      const key = `${place} ${names[index].path.split('/').length}\n${rest}`;
      const group = groups.get(key) ?? [];
      groups.set(key, group);
      group.push({ index, number, set: rest });
    }
  }
  return [...groups.values()];
}

/** Whether each number stands for channels of its own. */
function countsChannels(group: readonly Numbered[], classes: readonly NameClass[]): boolean {
  const numbers = new Set(group.map(({ number }) => number));
  if (numbers.size < FEWEST || numbers.size !== group.length) return false;
  const channels = group.flatMap(({ index }) => classes[index].readings.map(({ channel }) => channel));
  return new Set(channels).size === channels.length;
}
