import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import type Joi from 'joi';
import {
  answersRequest,
  arrivalQuery,
  runRequest,
  selectionRequest,
  shelfFilter,
  shelfQuery,
  tokenRequest,
} from './schemas.ts';

/** One thing that can be asked over HTTP. */
export interface Operation {
  method: 'get' | 'post' | 'delete';
  /** With its parts in braces. */
  path: string;
  summary: string;
  /** Needs a token; all others answer pages of this server and scripts on the same machine. */
  token?: true;
  query?: Joi.ObjectSchema;
  body?: Joi.ObjectSchema | 'file';
  /** Of the query and the body, as a script would send them. */
  example?: { query?: Record<string, string>; body?: unknown };
  answers: string;
  /** 200 unless it says otherwise. */
  status?: number;
}

const ASSET = '5f0c7a0e-3f1b-4c55-9a51-0a6d6f0c1b22';

/** What scripts and farms use; the page uses more, which may change. */
export const OPERATIONS: readonly Operation[] = [
  {
    method: 'post',
    path: '/api/arrivals',
    summary: 'Take in a zip or a model, apply rules to it and make packages',
    token: true,
    query: arrivalQuery,
    body: 'file',
    example: { query: { name: 'crate.obj', rules: 'paths,colour-tags', to: 'web-gltf', mend: 'safe' } },
    answers: 'The arrival, while it is read; its place is in the header Location',
    status: 202,
  },
  {
    method: 'get',
    path: '/api/arrivals/{id}',
    summary: 'How an arrival stands',
    token: true,
    answers: 'State, assets, what needs a person, packages with their verdicts',
  },
  {
    method: 'get',
    path: '/api/shelf',
    summary: 'A page of the shelf',
    query: shelfQuery,
    example: { query: { state: 'broken', format: 'fbx', sort: 'findings', limit: '50' } },
    answers: 'Assets with their counts of findings, and how many fit',
  },
  {
    method: 'get',
    path: '/api/shelf/ids',
    summary: 'Ids of all assets that filters find',
    query: shelfFilter,
    example: { query: { code: 'link.missing' } },
    answers: 'Ids by name',
  },
  {
    method: 'get',
    path: '/api/shelf/facets',
    summary: 'What the filters can be set to',
    answers: 'Values with how many assets each finds',
  },
  {
    method: 'post',
    path: '/api/runs',
    summary: 'Do something to many assets',
    body: runRequest,
    example: {
      body: {
        book: BUILT_IN_RULEBOOKS.paths,
        destinations: ['web-gltf'],
        filter: { state: 'broken' },
        apply: true,
      },
    },
    answers: 'The id of the run',
  },
  { method: 'get', path: '/api/runs', summary: 'The last runs', answers: 'Runs with their counts' },
  {
    method: 'get',
    path: '/api/runs/{id}',
    summary: 'How each asset of a run fared',
    answers: 'Edits in words, what is left, faults',
  },
  {
    method: 'post',
    path: '/api/runs/{id}/undo',
    summary: 'Undo a run as a whole',
    answers: 'How many assets went back, and which had moved on',
  },
  {
    method: 'post',
    path: '/api/runs/{id}/repeat',
    summary: 'Do again what failed or was not reached',
    answers: 'The id of the new run',
  },
  {
    method: 'get',
    path: '/api/questions',
    summary: 'All that is asked, alike doubts as one',
    answers: 'Questions with their choices and who asks them',
  },
  {
    method: 'post',
    path: '/api/questions',
    summary: 'Answer many questions in a run',
    body: answersRequest,
    example: {
      body: {
        title: 'The dry ones',
        answers: [{ asset: ASSET, finding: 'link.ambiguous:crate.png', choice: 'dry/crate.png' }],
      },
    },
    answers: 'The id of the run',
  },
  {
    method: 'post',
    path: '/api/selections',
    summary: 'Keep a selection under a name',
    body: selectionRequest,
    example: { body: { name: 'Broken FBX', filter: { state: 'broken', format: 'fbx' }, assets: null } },
    answers: 'All kept selections',
  },
  {
    method: 'get',
    path: '/api/insights',
    summary: 'What was found, mended and left',
    answers: 'Counts by kind, program, parcel and week; CSV with ?as=csv',
  },
  {
    method: 'post',
    path: '/api/tokens',
    summary: 'Make a token',
    body: tokenRequest,
    example: { body: { name: 'the farm' } },
    answers: 'The token, which is told this once',
  },
];
