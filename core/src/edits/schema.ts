import Joi from 'joi';
import type { Edit } from '../asset/asset.ts';
import { KinkajouError } from '../errors.ts';
import { CHANNELS, COLOUR_SPACES, COMPONENTS, rangeOfChannel } from '../scene/material.ts';
import { COLLISION_RANGES, COLLISIONS, type PartChange, PIVOTS } from '../scene/partChange.ts';
import { TAKE_PARTS } from '../scene/take.ts';

const name = Joi.string().max(4096).required();
const channel = Joi.string()
  .valid(...CHANNELS)
  .required();
const slot = Joi.object({ material: name.allow(''), channel });
const slots = Joi.array().items(slot).min(1).max(50_000).required();
const component = Joi.string().valid(...COMPONENTS);
const space = Joi.string().valid(...COLOUR_SPACES);
const normalY = Joi.string().valid('Y+', 'Y-');
const value = Joi.alternatives(Joi.number(), Joi.array().items(Joi.number()).length(3));
const wrap = Joi.string().valid('repeat', 'clamp', 'mirror');
const pair = Joi.array().items(Joi.number()).length(2).required();
const exponent = Joi.number().min(0.1).max(10);
const vector = Joi.array().items(Joi.number()).length(3);
const mapUse = Joi.object({
  image: name,
  component: component.required(),
  space: space.required(),
  invert: Joi.boolean().required(),
  gain: Joi.number().required(),
  offset: Joi.number().required(),
  uvSet: Joi.string().max(4096).allow('', null).required(),
  transform: Joi.object({ offset: pair, scale: pair, rotation: Joi.number().required() })
    .allow(null)
    .required(),
  unplaced: Joi.boolean().valid(true),
  wrap: Joi.array().items(wrap).length(2).required(),
  normalY: normalY.required(),
  exponent,
  repair: Joi.string().valid('unit', 'blue'),
  strength: Joi.number(),
  range: Joi.object({ scale: vector.required(), bias: vector.required() }),
  filter: Joi.string().valid('nearest'),
  spaceFrom: Joi.string().valid('unstated', 'edit'),
});
const unit = Joi.number().min(0).max(1);
const workflow = Joi.string().valid('metalRough', 'specGloss', 'legacy');
const alphaMode = Joi.string().valid('opaque', 'mask', 'blend');
const specularExponent = Joi.number().min(0).max(1e6).allow(null).required();
const workflowChanges = Joi.array()
  .items(Joi.object({ material: name, workflow: workflow.required(), exponent: specularExponent }))
  .max(5000);
const origin = Joi.object({
  from: Joi.string().valid('file', 'rule', 'evidence', 'hand').required(),
  detail: Joi.string().allow('').max(4096).required(),
  rule: Joi.object({ rulebook: Joi.string().max(400).required(), rule: Joi.string().max(400).required() }),
}).required();

const parts = Joi.array().items(name).min(1).max(50_000).required();
const change = (more: Joi.SchemaMap = {}) => Joi.object({ do: Joi.string(), parts, ...more });
const names = Joi.array()
  .items(Joi.object({ part: name, name }))
  .min(1)
  .max(50_000)
  .required();
/** How closely a shape for collision follows its part: of edits, rules and destinations alike. */
export const collisionFit = {
  hulls: within('hulls').integer(),
  error: within('error'),
  keep: within('keep'),
};

function within(name: keyof typeof COLLISION_RANGES) {
  const [least, most] = COLLISION_RANGES[name];
  return Joi.number().min(least).max(most);
}

const CHANGES: Record<PartChange['do'], Joi.ObjectSchema> = {
  drop: change(),
  restore: change(),
  rename: Joi.object({ do: Joi.string(), names }),
  move: change({ under: Joi.string().max(4096).allow(null).required() }),
  group: change({ name }),
  ungroup: change(),
  merge: change({ name }),
  cut: change({ by: Joi.string().valid('materials', 'solids').required() }),
  turnFaces: change(),
  agreeFaces: change(),
  normals: change({ angle: Joi.number().min(0).max(180).required() }),
  pivot: change({ at: Joi.alternatives(Joi.string().valid(...PIVOTS), vector).required() }),
  apply: change(),
  reset: change(),
  place: change({
    about: vector.required(),
    move: vector.required(),
    turn: vector.required(),
    scale: Joi.number().greater(0).required(),
  }),
  collision: change({
    shape: Joi.string()
      .valid(...COLLISIONS)
      .required(),
    ...collisionFit,
  }),
};
const partChange = Joi.object({
  do: Joi.string()
    .valid(...Object.keys(CHANGES))
    .required(),
})
  .unknown()
  .custom((value: PartChange, helpers) => {
    const { error } = CHANGES[value.do].validate(value);
    return error ? helpers.message({ custom: error.message.replaceAll('{', '(') }) : value;
  });

const KINDS: Record<Edit['kind'], Joi.ObjectSchema> = {
  linkImages: Joi.object({
    links: Joi.array()
      .items(Joi.object({ image: name, path: name, reason: Joi.string().max(4096).allow('').required() }))
      .min(1)
      .required(),
  }),
  unlinkImages: Joi.object({ images: Joi.array().items(name).min(1).required() }),
  assignSlots: Joi.object({
    assignments: Joi.array()
      .items(
        slot.keys({
          image: name,
          component: component.required(),
          invert: Joi.boolean().required(),
          space: space.required(),
          normalY: normalY.required(),
        }),
      )
      .min(1)
      .required(),
    clears: Joi.array().items(slot),
    workflows: workflowChanges,
  }),
  adjustSlots: Joi.object({
    slots,
    change: Joi.object({
      component,
      invert: Joi.boolean(),
      space,
      normalY,
      exponent,
      repair: Joi.string().valid('none', 'unit', 'blue'),
      filter: Joi.string().valid('smooth', 'nearest'),
    })
      .min(1)
      .required(),
  }),
  clearSlots: Joi.object({ slots }),
  unmapSlots: Joi.object({
    slots: Joi.array()
      .items(slot.keys({ value: value.allow(null).required() }))
      .min(1)
      .required(),
  }),
  pasteSlots: Joi.object({
    slots: Joi.array()
      .items(
        slot.keys({
          content: Joi.object({ value: value.required(), map: mapUse.allow(null).required() })
            .allow(null)
            .required(),
        }),
      )
      .min(1)
      .max(50_000)
      .required(),
    workflows: workflowChanges,
    what: Joi.string().max(80),
  }),
  addMaterials: Joi.object({
    materials: Joi.array()
      .items(Joi.object({ name, like: Joi.string().max(4096).allow(null).required() }))
      .min(1)
      .max(5000)
      .required(),
  }),
  bindNodes: Joi.object({ nodes: Joi.array().items(name).min(1).required(), material: name }),
  setValues: Joi.object({ slots, value: value.required() }),
  setIntake: Joi.object({
    choice: Joi.object({
      parts: Joi.array()
        .items(Joi.string().valid(...TAKE_PARTS))
        .unique()
        .required(),
      up: Joi.string().valid('X', 'Y', 'Z').allow(null).required(),
      metresPerUnit: Joi.number().positive().max(1e6).allow(null).required(),
      rotation: Joi.array().items(Joi.number().min(-3600).max(3600)).length(3).required(),
      scale: Joi.number().positive().max(1e6).required(),
    }).required(),
  }),
  replaceMaterials: Joi.object({
    materials: Joi.array().items(name).min(1).max(50_000).required(),
    by: Joi.object({
      name,
      workflow: workflow.required(),
      alphaMode: alphaMode.required(),
      alphaCutoff: unit.required(),
      doubleSided: Joi.boolean().required(),
      exponent: specularExponent,
      channels: Joi.object()
        .pattern(
          Joi.string().valid(...CHANNELS),
          Joi.object({ value: value.required(), map: mapUse.allow(null).required() }),
        )
        .required(),
    }).required(),
  }),
  editParts: Joi.object({ change: partChange.required() }),
  mergeMaterials: Joi.object({ materials: Joi.array().items(name).min(1).max(5000).required(), into: name }),
  dropMaterials: Joi.object({ materials: Joi.array().items(name).min(1).max(5000).required() }),
  renameMaterials: Joi.object({
    names: Joi.array()
      .items(Joi.object({ material: name, name }))
      .min(1)
      .max(5000)
      .required(),
  }),
  numberMaterials: Joi.object({
    numbers: Joi.array()
      .items(Joi.object({ material: name, number: Joi.number().integer().min(0).max(100_000).required() }))
      .min(1)
      .max(5000)
      .required(),
  }),
  setAlpha: Joi.object({
    materials: Joi.array().items(name).min(1).required(),
    change: Joi.object({
      alphaMode,
      alphaCutoff: unit,
      opacity: unit,
      doubleSided: Joi.boolean(),
      colours: Joi.valid('shown', 'passed'),
      thickness: Joi.number().min(0).max(1e6),
    })
      .min(1)
      .required(),
  }),
};

/**
 * Values that a person sets lie in their channel's range; what is pasted from a file may be as odd as the
 * file.
 */
function checkRanges(edit: Edit): void {
  if (edit.kind !== 'setValues') return;
  for (const { channel: name } of edit.slots) {
    const [least, most] = rangeOfChannel(name);
    const beyond = [edit.value].flat().find((component) => component < least || component > most);
    if (beyond !== undefined)
      throw new KinkajouError('edit.invalid', `${beyond} is no ${name}: it lies in ${least} to ${most}`);
  }
}

/** Checks an edit from outside. Throws `edit.invalid` naming the field that is wrong. */
export function parseEdit(input: unknown): Edit {
  const kind = (input as { kind?: string } | null)?.kind ?? '';
  const schema = Object.hasOwn(KINDS, kind) ? KINDS[kind as Edit['kind']] : undefined;
  if (!schema) throw new KinkajouError('edit.invalid', `"${kind}" is no kind of edit`);
  const { error, value } = schema.keys({ kind: Joi.string(), origin }).validate(input);
  if (error) throw new KinkajouError('edit.invalid', `the edit ${kind} is not valid: ${error.message}`);
  checkRanges(value as Edit);
  return value as Edit;
}
