import Joi from 'joi';
import type { Edit } from '../asset/asset.ts';
import { parseEdit } from '../edits/schema.ts';
import { KinkajouError } from '../errors.ts';
import { folderOf } from '../parcel/fileSource.ts';
import { parseJson } from '../parcel/json.ts';
import type { Vec3 } from '../scene/document.ts';
import { type IntakeChoice, TAKE_ALL } from '../scene/intake.ts';
import { TAKE_PARTS } from '../scene/take.ts';

/**
 * Several models as one, `NAME.joined`: JSON that names them with where each stands.
 *
 * { "joined": 1, "models": [{ "model": "quay.fbx" }, { "model": "lamp.obj", "folder": "joined/lamp", "name":
 * "Lamp", "at": [0, 1.2, 0] }] }
 *
 * The first is what the others were joined to: its parts, materials and images keep their names, and its unit
 * and axes hold.
 */
export interface JoinedFile {
  models: JoinedModel[];
}

/** A model in a joined file, and where it stands. */
export interface JoinedModel {
  /** The model's path, from the folder that it came with. */
  model: string;
  /** Folder that holds all that came with it, from the joined file's own; '' for that one. */
  folder: string;
  /** Of the group that holds its parts. */
  name: string;
  /** Where its origin stands, in metres, Y up. */
  at: Vec3;
  /** Degrees about the upright axis. */
  turn: number;
  /** Times its size. */
  scale: number;
  /**
   * How the first was understood when the place was chosen: it is what was seen, not what is in that file.
   */
  intake: IntakeChoice;
  /** What was done to it before it was joined. */
  edits: Edit[];
}

/** Extension of joined files. */
export const JOINED = 'joined';
/** Most models of one file. */
const MOST_MODELS = 200;
const HINT = 'Join the models again, or correct the text.';

const number = Joi.number();
const vector = Joi.array().items(number).length(3);
const intake = Joi.object({
  parts: Joi.array().items(Joi.string().valid(...TAKE_PARTS)),
  up: Joi.string().valid('X', 'Y', 'Z', null),
  metresPerUnit: number.greater(0).allow(null),
  rotation: vector,
  scale: number.greater(0),
});
const model = Joi.object({
  model: Joi.string().min(1).max(4096).required(),
  folder: Joi.string().allow('').max(4096).default(''),
  name: Joi.string().allow('').max(400).default(''),
  at: vector.default([0, 0, 0]),
  turn: number.default(0),
  scale: number.greater(0).default(1),
  intake: intake.default({}),
  edits: Joi.array().items(Joi.object().unknown()).default([]),
});
const schema = Joi.object({
  joined: Joi.valid(1).required(),
  models: Joi.array().items(model).min(1).max(MOST_MODELS).required(),
});

/** Reads a joined file. Throws `joined.invalid` with what is wrong. */
export function parseJoined(bytes: Uint8Array, file: string): JoinedFile {
  const json = parseJson(new TextDecoder().decode(bytes), { file, code: 'joined.invalid', hint: HINT });
  const { error, value } = schema.validate(json);
  if (error)
    throw new KinkajouError(
      'joined.invalid',
      `it is no list of joined models: ${error.message}`,
      { file },
      HINT,
    );
  return {
    models: (value.models as JoinedModel[]).map((entry) => ({
      ...entry,
      intake: { ...TAKE_ALL, ...entry.intake },
      edits: entry.edits.map(parseEdit),
    })),
  };
}

/** Paths of the models that a joined file names, seen as the file itself is. */
export function pathsIn({ models }: JoinedFile, path: string): string[] {
  return models.map(({ folder, model: modelPath }) =>
    [folderOf(path), folder, modelPath].filter(Boolean).join('/'),
  );
}

/** A model as it lies, with nothing said of it. */
export function plainModel(path: string): JoinedModel {
  return { model: path, folder: '', name: '', at: [0, 0, 0], turn: 0, scale: 1, intake: TAKE_ALL, edits: [] };
}

/** The bytes of a joined file; what is as usual is left out. */
export function formatJoined({ models }: JoinedFile): Uint8Array {
  const usual = plainModel('');
  const short = models.map((entry) =>
    Object.fromEntries(
      Object.entries(entry).filter(
        ([field, value]) => JSON.stringify(value) !== JSON.stringify(usual[field as keyof JoinedModel]),
      ),
    ),
  );
  return new TextEncoder().encode(`${JSON.stringify({ joined: 1, models: short }, null, 2)}\n`);
}
