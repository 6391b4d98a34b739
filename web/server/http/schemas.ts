import Joi from 'joi';
import { SHELF_SORTS } from '../services/shelf.ts';
import { SHELF_FILTER } from './shelfFilter.ts';

const ids = Joi.array().items(Joi.string().uuid()).min(1).max(20_000);
const destinations = Joi.array().items(Joi.string().max(100)).min(1).max(50);
/** In a query, one word or several with commas between them. */
const words = Joi.string().max(2000);

/**
 * What requests of the shelf and of scripts may hold; routes check by these, and the description of the
 * interface is made of them.
 */
export const shelfFilter = Joi.object(SHELF_FILTER);

/** What the shelf can be asked for. */
export const shelfQuery = shelfFilter.keys({
  sort: Joi.string().valid(...SHELF_SORTS),
  removed: Joi.boolean(),
  fold: Joi.boolean().description('Parcels of many assets as one entry each'),
  offset: Joi.number().integer().min(0),
  limit: Joi.number().integer().min(1).max(10_000),
});

/** A run over many assets. */
export const runRequest = Joi.object({
  title: Joi.string().trim().min(1).max(200).description('What the run is called in the list of runs'),
  deliver: Joi.string()
    .uuid()
    .description('A parcel that was uploaded and not closed, with newer files for several of the assets'),
  book: Joi.object().unknown().description('A rulebook'),
  mend: Joi.boolean().description('Mend whatever is safe'),
  destinations: destinations.description('Make packages for these'),
  compare: Joi.boolean().description(
    'Hold the last package for each destination against the asset as it is now',
  ),
  remove: Joi.boolean().description('Take the assets off the shelf'),
  assets: ids.allow(null).description('Null for the whole shelf'),
  filter: shelfFilter.description('Instead of assets: those that are found now'),
  apply: Joi.boolean().required().description('False tries it and changes nothing'),
})
  .or('deliver', 'book', 'mend', 'destinations', 'compare', 'remove')
  .xor('assets', 'filter');

/** A folder to write to. */
export const folderRequest = Joi.object({
  folder: Joi.string()
    .trim()
    .min(1)
    .max(4096)
    .required()
    .description('An absolute path on the server, below a folder that is allowed'),
});

/** Answers to questions over several assets. */
export const answersRequest = Joi.object({
  title: Joi.string().trim().min(1).max(200).required(),
  answers: Joi.array()
    .items(
      Joi.object({
        asset: Joi.string().uuid().required(),
        finding: Joi.string().max(4096).required(),
        choice: Joi.string().max(4096).required(),
      }),
    )
    .min(1)
    .max(20_000)
    .required(),
});

/** A selection of the shelf that is kept under a name. */
export const selectionRequest = Joi.object({
  name: Joi.string().trim().min(1).max(100).required(),
  filter: shelfFilter.required(),
  assets: ids.allow(null).required(),
});

/** What comes with a parcel that a script sends. */
export const arrivalQuery = Joi.object({
  name: Joi.string()
    .trim()
    .min(1)
    .max(255)
    .required()
    .description('File name with its type: a zip, or one model'),
  rules: words.description(
    'Ids of rulebooks of the house or words of built-in ones, with commas between them',
  ),
  to: words.description('Ids of destinations that packages are made for, with commas between them'),
  mend: Joi.string().valid('safe').description('Mend whatever is safe'),
});

const folder = Joi.string().trim().min(1).max(4096);

/** A folder that is watched for arrivals. */
export const arrivalFolderRequest = Joi.object({
  path: folder.required(),
  rules: Joi.array().items(Joi.string().trim().min(1).max(200)).max(50).default([]),
  destinations: Joi.array().items(Joi.string().max(100)).max(50).default([]),
  mend: Joi.boolean().default(false),
  output: folder.allow(null).default(null),
});

/** A token for scripts. */
export const tokenRequest = Joi.object({ name: Joi.string().trim().min(1).max(100).required() });
