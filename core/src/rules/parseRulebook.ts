import Joi from 'joi';
import { collisionFit } from '../edits/schema.ts';
import { KinkajouError } from '../errors.ts';
import { createMatcher } from '../pattern.ts';
import { ALPHA_MODES, CHANNELS, COLOUR_SPACES, COMPONENTS } from '../scene/material.ts';
import { COLLISIONS, PIVOTS } from '../scene/partChange.ts';
import { parseComparison } from './comparison.ts';
import { type Action, type Rulebook, UNITS } from './rulebook.ts';

const pattern = oneOrMore((text) => void createMatcher(text));
const comparison = oneOrMore((text) => void parseComparison(text));

/** A text or a list of them, each of which a reader must take. */
function oneOrMore(read: (text: string) => void): Joi.Schema {
  const pattern = Joi.string()
    .min(1)
    .max(2000)
    .custom((text: string, helpers) => {
      try {
        read(text);
        return text;
      } catch (error) {
        return helpers.message({ custom: `{{#label}}: ${(error as Error).message.replaceAll('{', '(')}` });
      }
    });
  return Joi.alternatives(pattern, Joi.array().items(pattern).min(1).max(1000));
}

const channel = Joi.string()
  .valid(...CHANNELS)
  .required();
const name = Joi.string().min(1).max(4096).required();
const value = Joi.alternatives(
  Joi.number().min(-1e6).max(1e6),
  Joi.array().items(Joi.number().min(-1e6).max(1e6)).length(3),
);
const word = <T extends string>(words: readonly T[]) => Joi.string().valid(...words);
const angle = Joi.number().min(-36_000).max(36_000);

/** What each action takes besides `do`. */
const ACTIONS: Record<Action['do'], Joi.SchemaMap> = {
  mend: {},
  leave: {},
  ask: {},
  tag: { space: word(COLOUR_SPACES).required() },
  link: {
    from: Joi.string().allow('').max(4096).required(),
    to: Joi.string().allow('').max(4096).required(),
  },
  assign: { channel, component: word(COMPONENTS), invert: Joi.boolean() },
  normal: { normalY: word(['Y+', 'Y-']).required() },
  set: { channel, value: value.required() },
  alpha: { mode: word(ALPHA_MODES), cutoff: Joi.number().min(0).max(1) },
  replaceMaterial: { with: name },
  renameMaterial: { to: name },
  numberMaterial: { number: Joi.number().integer().min(0).max(100_000).required() },
  drop: {},
  renamePart: { to: name },
  giveMaterial: { material: name },
  pivot: { at: word(PIVOTS).required() },
  collision: { shape: word(COLLISIONS).required(), ...collisionFit },
  axes: {
    up: word(['X', 'Y', 'Z']),
    unit: word(Object.keys(UNITS)),
    turn: Joi.alternatives(angle, Joi.array().items(angle).length(3)),
    scale: Joi.number().greater(0).max(1e6),
  },
  handOff: { to: Joi.alternatives(name, Joi.array().items(name).min(1).max(40)) },
};

const ONE_OF_THEM: Partial<Record<Action['do'], string[]>> = {
  alpha: ['mode', 'cutoff'],
  axes: ['up', 'unit', 'turn', 'scale'],
};

/** Each action by its own schema, so that what is wrong with it is told of it and not of all others. */
const action = Joi.object({ do: word(Object.keys(ACTIONS)).required() })
  .unknown()
  .custom((given: Action, helpers) => {
    const schema = Joi.object({ do: Joi.string(), ...ACTIONS[given.do] });
    const some = ONE_OF_THEM[given.do];
    const { error } = (some ? schema.or(...some) : schema).validate(given, { convert: false });
    return error
      ? helpers.message({ custom: `{{#label}} (${given.do}): ${error.message.replaceAll('{', '(')}` })
      : given;
  });

const CONDITIONS = [
  'asset',
  'parcel',
  'file',
  'format',
  'writtenBy',
  'part',
  'group',
  'material',
  'image',
  'channel',
  'space',
  'finding',
] as const;

const rulebook = Joi.object({
  rulebook: Joi.number().valid(1).required(),
  title: Joi.string().min(1).max(400).required(),
  rules: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().min(1).max(400).required(),
        reason: Joi.string().allow('').max(2000),
        when: Joi.object({
          ...Object.fromEntries(CONDITIONS.map((key) => [key, pattern])),
          confidence: comparison,
          size: comparison,
        }).required(),
        // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
        then: Joi.array().items(action).min(1).max(100).required(),
      }),
    )
    .max(2000)
    .required(),
});

/**
 * Checks a rulebook from outside. Throws `rulebook.invalid` naming the rule and the field, and
 * `rulebook.version`.
 */
export function parseRulebook(input: unknown, file = ''): Rulebook {
  const place = file === '' ? {} : { file };
  const version = (input as { rulebook?: unknown } | null)?.rulebook;
  if (typeof version === 'number' && version > 1)
    throw new KinkajouError(
      'rulebook.version',
      `this is a rulebook of version ${version}`,
      place,
      'A newer Kinkajou reads it; this one reads version 1.',
    );
  const { error, value: checked } = rulebook.validate(input, {
    convert: false,
    errors: { wrap: { label: false } },
  });
  if (error) {
    const index = error.details[0].path[0] === 'rules' ? Number(error.details[0].path[1]) : Number.NaN;
    const rule = (input as Rulebook).rules?.[index]?.name;
    throw new KinkajouError(
      'rulebook.invalid',
      `${error.message}${typeof rule === 'string' ? `, in the rule "${rule}"` : ''}`,
      place,
      'Mend the rulebook; nothing of it was applied.',
    );
  }
  const names = (checked as Rulebook).rules.map((rule) => rule.name);
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice !== undefined)
    throw new KinkajouError(
      'rulebook.invalid',
      `two rules are called "${twice}"`,
      place,
      'Receipts go by their names; give each its own.',
    );
  return checked as Rulebook;
}
