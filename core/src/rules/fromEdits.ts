import { type AssetSource, type Edit, nodeKeys, type ParcelImage } from '../asset/asset.ts';
import { learnRule } from '../links/pathRules.ts';
import { fileName } from '../parcel/fileSource.ts';
import { createMatcher } from '../pattern.ts';
import { channelInWords, channelTitle } from '../scene/channelTitles.ts';
import { defaultSpace } from '../scene/material.ts';
import { collisionIn } from '../scene/partChange.ts';
import { TAKE_PARTS } from '../scene/take.ts';
import { type Action, type Conditions, type Rule, type Rulebook, UNITS, type Unit } from './rulebook.ts';

/** What a log is read with: names of what its edits speak of by keys. */
export interface LogSurroundings {
  /** The written path of an image. */
  writtenOf?(image: string): string;
  /** The file that a slot reads before the edit. */
  imageOf?(material: string, channel: string): string | null;
  /**
   * All that the asset of the log has: a pattern that would reach more of it than the edit did is left as exact
   * names.
   */
  names?: AssetNames;
}

/** Names that rules may be about. */
export interface AssetNames {
  materials: readonly string[];
  parts: readonly string[];
  /** Paths of files. */
  images: readonly string[];
}

/** What is known of an asset, for the rules of its log. */
export function surroundingsOf(
  source: AssetSource,
  images: readonly Pick<ParcelImage, 'path'>[],
): LogSurroundings {
  return {
    writtenOf: (image) => source.images.find(({ key }) => key === image)?.written ?? image,
    names: {
      materials: source.materials.map(({ key }) => key),
      parts: nodeKeys(source.nodes),
      images: images.map(({ path }) => path),
    },
  };
}

/** An edit that no rule does again, or not all of it. */
export interface Unruled {
  kind: Edit['kind'];
  /** What no rule can say of it, by the names of its fields; empty where that is all of it. */
  lacks: string[];
}

/**
 * Rules that would do again what a stretch of an edit log did. Names become patterns: numbers in them stand
 * for any number, so that what comes alike is met alike. Edits that speak of one asset alone have no rule;
 * they are told, and so is what of others no rule can say.
 */
export function rulesFrom(
  edits: readonly Edit[],
  title: string,
  surroundings: LogSurroundings = {},
): { rulebook: Rulebook; without: Unruled[] } {
  const rules: Rule[] = [];
  const without: Unruled[] = [];
  const standing = edits.findLast(({ kind }) => kind === 'setIntake');
  const parts = new PartNames(surroundings.names?.parts ?? []);
  for (const edit of edits) {
    // How an asset stands is said as a whole each time.
    if (edit.kind === 'setIntake' && edit !== standing) continue;
    const made = rulesOf(edit, surroundings, parts);
    parts.follow(edit);
    const lacks = made.length === 0 ? [] : lackingOf(edit);
    if (made.length === 0 || lacks.length > 0) without.push({ kind: edit.kind, lacks });
    rules.push(...made);
  }
  return { rulebook: bookOf(title, rules), without };
}

const LACKS_IN_WORDS: Readonly<Record<string, string>> = {
  clears: 'which slots are emptied',
  workflows: 'which shading model images are for',
  exponent: 'an exponent',
  repair: 'how normals are repaired',
  filter: 'how pixels are filtered',
  doubleSided: 'how many sides are shown',
  colours: 'whether colours of points are shown',
  thickness: 'how thick glass is',
  parts: 'what is taken of a model',
  metresPerUnit: 'a unit without a name',
};

/** What of a log no rule does again, a sentence for each kind. */
export function unruledInWords(without: readonly Unruled[]): string[] {
  const whole = new Set(without.filter(({ lacks }) => lacks.length === 0).map(({ kind }) => kind));
  const lacks = new Set(without.flatMap((unruled) => unruled.lacks));
  return [
    ...[...whole].map((kind) => `edits of the kind ${kind} have no rule; they speak of one asset alone`),
    ...[...lacks].map((field) => `no rule can say ${LACKS_IN_WORDS[field] ?? field}`),
  ];
}

/** What parts are called by now: rules see what the ones before them did. */
class PartNames {
  private readonly renamed = new Map<string, string>();
  private readonly keys: readonly string[];

  constructor(keys: readonly string[]) {
    this.keys = keys;
  }

  follow(edit: Edit): void {
    if (edit.kind !== 'editParts' || edit.change.do !== 'rename') return;
    for (const { part, name } of edit.change.names) this.renamed.set(part, name);
  }

  patternsOf(keys: readonly string[]): string | string[] {
    return patternsOf(keys.map(this.nameOf), this.keys.map(this.nameOf));
  }

  readonly nameOf = (key: string): string => this.renamed.get(key) ?? key;
}

/** Fields of a change of slots that rules can say. */
const SAID_OF_SLOTS = ['space', 'normalY', 'component', 'invert'];

/** What of an edit no rule can say. */
function lackingOf(edit: Edit): string[] {
  switch (edit.kind) {
    case 'adjustSlots':
      return Object.keys(edit.change).filter((field) => !SAID_OF_SLOTS.includes(field));
    case 'assignSlots':
      return (['clears', 'workflows'] as const).filter((field) => (edit[field]?.length ?? 0) > 0);
    case 'setAlpha':
      return (['doubleSided', 'colours', 'thickness'] as const).filter(
        (field) => edit.change[field] !== undefined,
      );
    case 'setIntake': {
      const { parts, metresPerUnit } = edit.choice;
      return [
        ...(TAKE_PARTS.every((part) => parts.includes(part)) ? [] : ['parts']),
        ...(metresPerUnit === null || unitOf(metresPerUnit) ? [] : ['metresPerUnit']),
      ];
    }
    default:
      return [];
  }
}

function unitOf(metresPerUnit: number): Unit | undefined {
  return (Object.keys(UNITS) as Unit[]).find((unit) => Math.abs(UNITS[unit] - metresPerUnit) < 1e-12);
}

/** Several rulebooks as one: what is the same in them is there once. */
export function joinRulebooks(title: string, books: readonly Rulebook[]): Rulebook {
  return bookOf(
    title,
    books.flatMap(({ rules }) => rules),
  );
}

/** Each rule once, each under a name of its own. */
function bookOf(title: string, all: readonly Rule[]): Rulebook {
  const seen = new Set<string>();
  const names = new Map<string, number>();
  const rules = all.flatMap((rule): Rule[] => {
    const meaning = JSON.stringify([rule.when, rule.then]);
    if (seen.has(meaning)) return [];
    seen.add(meaning);
    const count = (names.get(rule.name) ?? 0) + 1;
    names.set(rule.name, count);
    return [count === 1 ? rule : { ...rule, name: `${rule.name} (${count})` }];
  });
  return { rulebook: 1, title, rules };
}

function rule(name: string, when: Conditions, then: Action[], { origin }: Edit): Rule {
  return { name, ...(origin.detail === '' ? {} : { reason: origin.detail }), when, then };
}

/** A name as a pattern: its numbers may be others; what patterns would read otherwise means itself. */
export function patternOf(name: string): string {
  return exact(name).replaceAll(/\d+/g, '*');
}

/** Patterns of some names of an asset, which none of its others fit. */
function patternsOf(names: readonly string[], all: readonly string[] = []): string | string[] {
  const chosen = new Set(names);
  const reaches = new Map<string, boolean>();
  const reachesMore = (pattern: string) => {
    if (!reaches.has(pattern)) {
      const matches = createMatcher(pattern);
      reaches.set(
        pattern,
        all.some((name) => !chosen.has(name) && matches(name) !== null),
      );
    }
    return reaches.get(pattern);
  };
  const patterns = new Set(
    names.map((name) => {
      const pattern = patternOf(name);
      return pattern !== exact(name) && reachesMore(pattern) ? exact(name) : pattern;
    }),
  );
  return patterns.size === 1 ? [...patterns][0] : [...patterns];
}

function rulesOf(edit: Edit, { writtenOf, imageOf, names }: LogSurroundings, parts: PartNames): Rule[] {
  switch (edit.kind) {
    case 'linkImages':
      return edit.links.flatMap(({ image, path }) => {
        const pathRule = learnRule(writtenOf?.(image) ?? image, path);
        if (!pathRule) return [];
        return [
          rule(
            `${pathRule.from || 'The written folders'} lie in ${pathRule.to || 'the top folder'}`,
            {},
            [{ do: 'link', ...pathRule }],
            edit,
          ),
        ];
      });
    case 'adjustSlots': {
      const channels = [...new Set(edit.slots.map(({ channel }) => channel))];
      const images = edit.slots.flatMap(({ material, channel }) => imageOf?.(material, channel) ?? []);
      const when: Conditions = {
        channel: channels.length === 1 ? channels[0] : channels,
        ...(images.length === edit.slots.length
          ? { image: patternsOf(images.map(fileName), names?.images.map(fileName)) }
          : {
              material: patternsOf(
                edit.slots.map(({ material }) => material),
                names?.materials,
              ),
            }),
      };
      const rules: Rule[] = [];
      if (edit.change.space)
        rules.push(
          rule(
            `${channels.map(channelTitle).join(', ')} in ${edit.change.space}`,
            when,
            [{ do: 'tag', space: edit.change.space }],
            edit,
          ),
        );
      if (edit.change.normalY && channels.includes('normal'))
        rules.push(
          rule(
            `Normals point ${edit.change.normalY}`,
            { ...when, channel: 'normal' },
            [{ do: 'normal', normalY: edit.change.normalY }],
            edit,
          ),
        );
      if (edit.change.component !== undefined || edit.change.invert !== undefined)
        for (const channel of channels)
          rules.push(
            rule(
              `How ${channelInWords(channel)} is read`,
              { ...when, channel },
              [
                {
                  do: 'assign',
                  channel,
                  ...(edit.change.component ? { component: edit.change.component } : {}),
                  ...(edit.change.invert === undefined ? {} : { invert: edit.change.invert }),
                },
              ],
              edit,
            ),
          );
      return rules;
    }
    case 'assignSlots':
      return edit.assignments.flatMap(({ material, image, channel, component, invert, space, normalY }) => {
        const when: Conditions = {
          image: patternsOf([fileName(image)], names?.images.map(fileName)),
          // Of several materials it is the one that the image went to.
          ...((names?.materials.length ?? 0) > 1
            ? { material: patternsOf([material], names?.materials) }
            : {}),
        };
        const title = fileName(image);
        const read = { ...when, channel };
        return [
          rule(
            `${title} is ${channelInWords(channel)}`,
            when,
            [{ do: 'assign', channel, component, invert }],
            edit,
          ),
          ...(space === defaultSpace(channel)
            ? []
            : [rule(`${title} in ${space}`, read, [{ do: 'tag', space }], edit)]),
          ...(channel === 'normal'
            ? [rule(`${title} points ${normalY}`, read, [{ do: 'normal', normalY }], edit)]
            : []),
        ];
      });
    case 'setValues':
      return [...new Set(edit.slots.map(({ channel }) => channel))].map((channel) =>
        rule(
          `${channelTitle(channel)} of ${edit.slots.length === 1 ? edit.slots[0].material : `${edit.slots.length} materials`}`,
          {
            material: patternsOf(
              edit.slots.filter((slot) => slot.channel === channel).map(({ material }) => material),
              names?.materials,
            ),
          },
          [{ do: 'set', channel, value: edit.value }],
          edit,
        ),
      );
    case 'setAlpha':
      return alphaRules(edit, names);
    case 'replaceMaterials':
      return [
        rule(
          `${edit.materials.join(', ')} give way to ${edit.by.name}`,
          { material: patternsOf(edit.materials, names?.materials) },
          [{ do: 'replaceMaterial', with: edit.by.name }],
          edit,
        ),
      ];
    case 'renameMaterials':
      return edit.names.map(({ material, name }) =>
        rule(
          `${material} is called ${name}`,
          { material: exact(material) },
          [{ do: 'renameMaterial', to: name }],
          edit,
        ),
      );
    case 'numberMaterials':
      return edit.numbers.map(({ material, number }) =>
        rule(
          `${material} is number ${number}`,
          { material: exact(material) },
          [{ do: 'numberMaterial', number }],
          edit,
        ),
      );
    case 'bindNodes':
      return [
        rule(
          `Parts of ${edit.material}`,
          { part: parts.patternsOf(edit.nodes) },
          [{ do: 'giveMaterial', material: edit.material }],
          edit,
        ),
      ];
    case 'editParts':
      return partRules(edit, parts);
    case 'setIntake': {
      const { up, metresPerUnit, rotation, scale } = edit.choice;
      const unit = metresPerUnit === null ? undefined : unitOf(metresPerUnit);
      const turned = rotation.some((angle) => angle !== 0);
      if (up === null && !unit && !turned && scale === 1) return [];
      return [
        rule(
          'How it stands',
          {},
          [
            {
              do: 'axes',
              ...(up ? { up } : {}),
              ...(unit ? { unit } : {}),
              ...(turned ? { turn: rotation } : {}),
              ...(scale === 1 ? {} : { scale }),
            },
          ],
          edit,
        ),
      ];
    }
    default:
      return [];
  }
}

/** A name that stands for itself alone. */
function exact(name: string): string {
  return name.replaceAll(/[*?[\]{}\\]/g, (letter) => `\\${letter}`);
}

/** How opacity is taken, and how opaque materials are where that was said, too. */
function alphaRules(edit: Extract<Edit, { kind: 'setAlpha' }>, names: AssetNames | undefined): Rule[] {
  const { alphaMode: mode, alphaCutoff: cutoff, opacity } = edit.change;
  const when = { material: patternsOf(edit.materials, names?.materials) };
  const then: Action[] = [];
  if (opacity !== undefined) then.push({ do: 'set', channel: 'opacity', value: opacity });
  if (mode !== undefined || cutoff !== undefined)
    then.push({
      do: 'alpha',
      ...(mode === undefined ? {} : { mode }),
      ...(cutoff === undefined ? {} : { cutoff }),
    });
  return then.length === 0 ? [] : [rule(`Transparency of ${edit.materials.join(', ')}`, when, then, edit)];
}

function partRules(edit: Extract<Edit, { kind: 'editParts' }>, parts: PartNames): Rule[] {
  const { change } = edit;
  switch (change.do) {
    case 'drop':
      return [
        rule(
          `Without ${change.parts.slice(0, 3).join(', ')}`,
          { part: parts.patternsOf(change.parts) },
          [{ do: 'drop' }],
          edit,
        ),
      ];
    case 'rename':
      return change.names.map(({ part, name }) =>
        rule(
          `${part} is called ${name}`,
          { part: exact(parts.nameOf(part)) },
          [{ do: 'renamePart', to: name }],
          edit,
        ),
      );
    case 'pivot':
      return typeof change.at === 'string'
        ? [
            rule(
              `Pivots at the ${change.at}`,
              { part: parts.patternsOf(change.parts) },
              [{ do: 'pivot', at: change.at }],
              edit,
            ),
          ]
        : [];
    case 'collision':
      return [
        rule(
          `Collision: ${change.shape}`,
          { part: parts.patternsOf(change.parts) },
          [{ do: 'collision', ...collisionIn(change) }],
          edit,
        ),
      ];
    default:
      return [];
  }
}
