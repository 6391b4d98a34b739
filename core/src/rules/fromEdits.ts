import type { Edit } from '../asset/asset.ts';
import { learnRule } from '../links/pathRules.ts';
import { fileName } from '../parcel/fileSource.ts';
import { channelInWords, channelTitle } from '../scene/channelTitles.ts';
import { collisionIn } from '../scene/partChange.ts';
import { type Action, type Conditions, type Rule, type Rulebook, UNITS, type Unit } from './rulebook.ts';

/** What a log is read with: names of what its edits speak of by keys. */
export interface LogSurroundings {
  /** The written path of an image. */
  writtenOf?(image: string): string;
  /** The file that a slot reads before the edit. */
  imageOf?(material: string, channel: string): string | null;
}

/**
 * Rules that would do again what a stretch of an edit log did. Names become patterns: numbers in them stand
 * for any number, so that what comes alike is met alike. Edits that speak of one asset alone have no rule;
 * they are told.
 */
export function rulesFrom(
  edits: readonly Edit[],
  title: string,
  surroundings: LogSurroundings = {},
): { rulebook: Rulebook; without: string[] } {
  const rules: Rule[] = [];
  const without: string[] = [];
  for (const edit of edits) {
    const made = rulesOf(edit, surroundings);
    if (made.length === 0) without.push(edit.kind);
    rules.push(...made);
  }
  return { rulebook: bookOf(title, rules), without };
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

function patternsOf(names: readonly string[]): string | string[] {
  const all = [...new Set(names.map(patternOf))];
  return all.length === 1 ? all[0] : all;
}

function rulesOf(edit: Edit, { writtenOf, imageOf }: LogSurroundings): Rule[] {
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
          ? { image: patternsOf(images.map(fileName)) }
          : { material: patternsOf(edit.slots.map(({ material }) => material)) }),
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
      if (edit.change.normalY)
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
      return edit.assignments.map(({ image, channel, component, invert }) =>
        rule(
          `${fileName(image)} is ${channelInWords(channel)}`,
          { image: patternOf(fileName(image)) },
          [{ do: 'assign', channel, component, invert }],
          edit,
        ),
      );
    case 'setValues':
      return [...new Set(edit.slots.map(({ channel }) => channel))].map((channel) =>
        rule(
          `${channelTitle(channel)} of ${edit.slots.length === 1 ? edit.slots[0].material : `${edit.slots.length} materials`}`,
          {
            material: patternsOf(
              edit.slots.filter((slot) => slot.channel === channel).map(({ material }) => material),
            ),
          },
          [{ do: 'set', channel, value: edit.value }],
          edit,
        ),
      );
    case 'setAlpha': {
      const { alphaMode: mode, alphaCutoff: cutoff } = edit.change;
      if (mode === undefined && cutoff === undefined) return [];
      return [
        rule(
          `Transparency of ${edit.materials.join(', ')}`,
          { material: patternsOf(edit.materials) },
          [
            {
              do: 'alpha',
              ...(mode === undefined ? {} : { mode }),
              ...(cutoff === undefined ? {} : { cutoff }),
            },
          ],
          edit,
        ),
      ];
    }
    case 'replaceMaterials':
      return [
        rule(
          `${edit.materials.join(', ')} give way to ${edit.by.name}`,
          { material: patternsOf(edit.materials) },
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
          { part: patternsOf(edit.nodes) },
          [{ do: 'giveMaterial', material: edit.material }],
          edit,
        ),
      ];
    case 'editParts':
      return partRules(edit);
    case 'setIntake': {
      const { up, metresPerUnit, rotation, scale } = edit.choice;
      const unit = (Object.keys(UNITS) as Unit[]).find(
        (unit) => metresPerUnit !== null && Math.abs(UNITS[unit] - metresPerUnit) < 1e-12,
      );
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

function partRules(edit: Extract<Edit, { kind: 'editParts' }>): Rule[] {
  const { change } = edit;
  switch (change.do) {
    case 'drop':
      return [
        rule(
          `Without ${change.parts.slice(0, 3).join(', ')}`,
          { part: patternsOf(change.parts) },
          [{ do: 'drop' }],
          edit,
        ),
      ];
    case 'rename':
      return change.names.map(({ part, name }) =>
        rule(`${part} is called ${name}`, { part: exact(part) }, [{ do: 'renamePart', to: name }], edit),
      );
    case 'pivot':
      return typeof change.at === 'string'
        ? [
            rule(
              `Pivots at the ${change.at}`,
              { part: patternsOf(change.parts) },
              [{ do: 'pivot', at: change.at }],
              edit,
            ),
          ]
        : [];
    case 'collision':
      return [
        rule(
          `Collision: ${change.shape}`,
          { part: patternsOf(change.parts) },
          [{ do: 'collision', ...collisionIn(change) }],
          edit,
        ),
      ];
    default:
      return [];
  }
}
