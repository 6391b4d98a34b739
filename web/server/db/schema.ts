import type { AssetSource, Edit } from '@kinkajou/core/asset/asset';
import type { KeptMaterial } from '@kinkajou/core/asset/canonical';
import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import type { SlotTemplate } from '@kinkajou/core/asset/templates';
import type { ConvertReport } from '@kinkajou/core/colour/convert';
import type { Destination } from '@kinkajou/core/destinations/profile';
import type { HandoffChoices } from '@kinkajou/core/destinations/resolveChoices';
import type { Address } from '@kinkajou/core/edits/touches';
import type { SeverityCounts } from '@kinkajou/core/findings/checks';
import type { Doubt } from '@kinkajou/core/findings/doubts';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import type { ImageInfo } from '@kinkajou/core/images/probe';
import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import type { IntakeChoice } from '@kinkajou/core/scene/intake';
import type { ChannelName } from '@kinkajou/core/scene/material';
import type { SetAnswer } from '@kinkajou/core/sets/answers';
import { type SQL, sql } from 'drizzle-orm';
import {
  type AnyPgColumn,
  bigint,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  serial,
  text,
  timestamp,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import type { ArrivalOrders, JobData, JobName } from '../jobs/kinds.ts';
import type { ShelfFilter } from '../wire/shelf.ts';
import type {
  ConversionRequest,
  DeliverySummary,
  DerivedMapNote,
  EmbeddedRecord,
  FaultRecord,
  HandoffReading,
  JobState,
  ParcelState,
} from './rowTypes.ts';

const created = () => timestamp('created_at', { withTimezone: true }).notNull().defaultNow();

/** Everything that takes its time: what it is, how far it is, and how it ended. */
export const jobs = pgTable(
  'jobs',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    kind: text('kind').$type<JobName>().notNull(),
    data: jsonb('data').$type<JobData[JobName]>().notNull(),
    /** Id of what it is about, for those who look at that. */
    subject: text('subject').notNull(),
    /** Of several jobs of a kind with the same key that wait, one is enough. */
    key: text('key'),
    state: text('state').$type<JobState>().notNull().default('queued'),
    progress: real('progress').notNull().default(0),
    doing: text('doing').notNull().default('waiting for a worker'),
    attempts: integer('attempts').notNull().default(0),
    cancelRequested: boolean('cancel_requested').notNull().default(false),
    /** The worker that runs it, and until when it is that one's without a sign of life. */
    worker: text('worker'),
    leaseUntil: timestamp('lease_until', { withTimezone: true }),
    runAfter: timestamp('run_after', { withTimezone: true }).notNull().defaultNow(),
    /** What its work returned, and why it failed. */
    result: jsonb('result').$type<unknown>(),
    fault: jsonb('fault').$type<FaultRecord>(),
    createdAt: created(),
    startedAt: timestamp('started_at', { withTimezone: true }),
    finishedAt: timestamp('finished_at', { withTimezone: true }),
  },
  (table) => [
    index().on(table.state, table.leaseUntil),
    index().on(table.subject),
    uniqueIndex('jobs_waiting').on(table.kind, table.key).where(sql`state = 'queued'`),
  ],
);

/** The id of a job, for what it makes. */
const ofJob = () =>
  uuid('id')
    .primaryKey()
    .references(() => jobs.id);

/** What arrived, byte for byte in the blob store. */
export const parcels = pgTable('parcels', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull(),
  state: text('state').$type<ParcelState>().notNull().default('uploading'),
  /** The job that reads it. */
  jobId: uuid('job_id').references(() => jobs.id, { onDelete: 'set null' }),
  /** What could not be taken: entries left out, models that could not be read. */
  faults: jsonb('faults').$type<FaultRecord[]>().notNull().default([]),
  /** What its sender asked to be done to it. */
  arrival: jsonb('arrival').$type<ArrivalOrders>(),
  createdAt: created(),
});

/**
 * The name of a path without folders and type, in lower case, up to 200 letters: how images are looked for
 * across parcels.
 */
export function stemOfPath(path: AnyPgColumn): SQL {
  return sql`left(lower(regexp_replace(regexp_replace(${path}, '^.*/', ''), '\\.[^.]*$', '')), 200)`;
}

/** Files of a parcel. Entries of an archive appear beside the archive itself. */
export const parcelFiles = pgTable(
  'parcel_files',
  {
    id: serial('id').primaryKey(),
    parcelId: uuid('parcel_id')
      .notNull()
      .references(() => parcels.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    /** `archive` for a zip that was unpacked, `file` for everything else. */
    kind: text('kind').$type<'archive' | 'file'>().notNull(),
    sha256: text('sha256').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    modified: timestamp('modified', { withTimezone: true }),
    /** Header of an image; null for other files and for unreadable ones, whose fault is beside. */
    info: jsonb('info').$type<ImageInfo>(),
    fault: jsonb('fault').$type<{ code: string; message: string }>(),
  },
  (table) => [
    unique().on(table.parcelId, table.path),
    index().on(table.sha256),
    index('parcel_files_stem').on(stemOfPath(table.path)),
  ],
);

/** One model of a parcel. Its state is `source` plus the first `cursor` edits. */
export const assets = pgTable(
  'assets',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    parcelId: uuid('parcel_id')
      .notNull()
      .references(() => parcels.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    model: text('model').notNull(),
    source: jsonb('source').$type<AssetSource>().notNull(),
    /** Images carried inside the model: path, blob and header. */
    embedded: jsonb('embedded').$type<EmbeddedRecord[]>().notNull().default([]),
    geometry: text('geometry').notNull(),
    thumbnail: text('thumbnail'),
    /** A picture that a person took is not drawn over. */
    thumbnailTaken: boolean('thumbnail_taken').notNull().default(false),
    /** What the shelf shows of the source, without reading all of it. */
    format: text('format')
      .$type<AssetSource['format']>()
      .notNull()
      .generatedAlwaysAs(sql`coalesce(source->>'format', '')`),
    variant: text('variant').notNull().generatedAlwaysAs(sql`coalesce(source->>'variant', '')`),
    counts: jsonb('counts')
      .$type<AssetSource['counts']>()
      .notNull()
      .generatedAlwaysAs(sql`coalesce(source->'counts', '{}')`),
    bounds: jsonb('bounds').$type<AssetSource['bounds']>().generatedAlwaysAs(sql`source->'bounds'`),
    generator: text('generator').notNull().generatedAlwaysAs(sql`coalesce(source->>'generator', '')`),
    severities: jsonb('severities').$type<SeverityCounts>().notNull(),
    /** What is asked. */
    doubts: jsonb('doubts').$type<Doubt[]>().notNull().default([]),
    /** Titles of what is open, by code. */
    open: jsonb('open').$type<Record<string, string>>().notNull().default({}),
    /** The same as it was before anything was done, with whatever was found since. */
    found: jsonb('found').$type<Record<string, string>>().notNull().default({}),
    /** Moved by every change of what the bench shows, undo and redo included. */
    revision: integer('revision').notNull().default(0),
    cursor: integer('cursor').notNull().default(0),
    lastEdit: text('last_edit').notNull().default(''),
    /** When it was taken off the shelf; it can be brought back until a sweep. */
    removedAt: timestamp('removed_at', { withTimezone: true }),
    createdAt: created(),
    updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [unique().on(table.parcelId, table.model), index().on(table.updatedAt), index().on(table.name)],
);

/** What scripts show instead of a page, by its hash. */
export const tokens = pgTable('tokens', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  createdAt: created(),
  lastUsedAt: timestamp('last_used_at', { withTimezone: true }),
});

/** Assets that are worked on together again and again, by the filters that find them or by themselves. */
export const selections = pgTable('selections', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull().unique(),
  filter: jsonb('filter').$type<ShelfFilter>().notNull(),
  /** Null for whatever the filters find. */
  assets: jsonb('assets').$type<string[]>(),
  createdAt: created(),
});

/**
 * What each revision of an asset changed, so that a request that saw an earlier one can tell whether it
 * minds.
 */
export const assetChanges = pgTable(
  'asset_changes',
  {
    assetId: uuid('asset_id')
      .notNull()
      .references(() => assets.id, { onDelete: 'cascade' }),
    revision: integer('revision').notNull(),
    /** The page that asked for it; '' for jobs and scripts. */
    author: text('author').notNull().default(''),
    text: text('text').notNull(),
    touches: jsonb('touches').$type<Address[]>().notNull(),
    createdAt: created(),
  },
  (table) => [primaryKey({ columns: [table.assetId, table.revision] })],
);

/** Counters of what is known beside the assets; each moves when it changes. */
export const stamps = pgTable('stamps', {
  name: text('name').primaryKey(),
  value: integer('value').notNull().default(0),
});

/** The edit log of an asset; entries past the asset's cursor are undone. */
export const edits = pgTable(
  'edits',
  {
    id: serial('id').primaryKey(),
    assetId: uuid('asset_id')
      .notNull()
      .references(() => assets.id, { onDelete: 'cascade' }),
    seq: integer('seq').notNull(),
    /** Number of the first edit of the act that it belongs to; one act is undone at once. */
    act: integer('act').notNull().default(0),
    edit: jsonb('edit').$type<Edit>().notNull(),
    text: text('text').notNull(),
    /** The job that added it, so that a job which runs again adds it once. */
    job: uuid('job'),
    /** The page that added it; '' for jobs and scripts. */
    author: text('author').notNull().default(''),
    createdAt: created(),
  },
  (table) => [unique().on(table.assetId, table.seq)],
);

/** Packages that were asked for or made; each is a job of the same id. */
export const handoffs = pgTable('handoffs', {
  id: ofJob(),
  assetId: uuid('asset_id')
    .notNull()
    .references(() => assets.id, { onDelete: 'cascade' }),
  destination: text('destination').notNull(),
  variant: text('variant').notNull(),
  /** What was settled where the destination leaves it open, and the destination as it was then. */
  choices: jsonb('choices').$type<HandoffChoices>().notNull().default({}),
  profile: jsonb('profile').$type<Destination>(),
  receipt: jsonb('receipt').$type<Receipt>(),
  zip: text('zip'),
  zipSize: bigint('zip_size', { mode: 'number' }),
  fileName: text('file_name').notNull().default(''),
  /** The package as its receiver reads it, for comparing. */
  reading: jsonb('reading').$type<HandoffReading>(),
  createdAt: created(),
});

/** Destinations of one's own; built-in ones are not stored. */
export const ownDestinations = pgTable('own_destinations', {
  id: text('id').primaryKey(),
  profile: jsonb('profile').$type<Destination>().notNull(),
  createdAt: created(),
  updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
});

/** Rules of the house, as they are written. */
export const rulebooks = pgTable('rulebooks', {
  id: uuid('id').primaryKey().defaultRandom(),
  book: jsonb('book').$type<Rulebook>().notNull(),
  /** Whether it is applied to whatever arrives. */
  onArrival: boolean('on_arrival').notNull().default(false),
  createdAt: created(),
  updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
});

/** What a rulebook said before it was changed, so that it can say it again. */
export const rulebookStates = pgTable(
  'rulebook_states',
  {
    id: serial('id').primaryKey(),
    rulebookId: uuid('rulebook_id')
      .notNull()
      .references(() => rulebooks.id, { onDelete: 'cascade' }),
    book: jsonb('book').$type<Rulebook>().notNull(),
    /** When it gave way to the next. */
    createdAt: created(),
  },
  (table) => [index().on(table.rulebookId)],
);

/** Images that handoffs baked, by what they are made of. */
export const bakedImages = pgTable('baked_images', {
  key: text('key').primaryKey(),
  sha256: text('sha256').notNull(),
  createdAt: created(),
});

/** What was last taken from models of one source program, by the program's own words in the file header. */
export const intakeChoices = pgTable('intake_choices', {
  generator: text('generator').primaryKey(),
  choice: jsonb('choice').$type<IntakeChoice>().notNull(),
  updatedAt: timestamp('updated_at', { withTimezone: true }).notNull().defaultNow(),
});

/** Workers write here every few seconds, so that health can tell whether any is alive. */
export const workers = pgTable('workers', {
  id: text('id').primaryKey(),
  seenAt: timestamp('seen_at', { withTimezone: true }).notNull().defaultNow(),
});

/** What the pixels of an image say, once per content. */
export const imageFacts = pgTable('image_facts', {
  sha256: text('sha256').primaryKey(),
  version: integer('version').notNull(),
  /** Null where the pixels could not be read. */
  facts: jsonb('facts').$type<PixelFacts>(),
  /** Why the pixels cannot be had, though the header is good. */
  fault: jsonb('fault').$type<{ code: string; message: string }>(),
});

/** Newer deliveries of an asset. Each made a parcel of its own, so that the asset can go back. */
export const deliveries = pgTable(
  'deliveries',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    assetId: uuid('asset_id')
      .notNull()
      .references(() => assets.id, { onDelete: 'cascade' }),
    parcelId: uuid('parcel_id')
      .notNull()
      .references(() => parcels.id, { onDelete: 'cascade' }),
    previousParcelId: uuid('previous_parcel_id').notNull(),
    previousModel: text('previous_model').notNull(),
    summary: jsonb('summary').$type<DeliverySummary>().notNull(),
    createdAt: created(),
  },
  (table) => [index().on(table.assetId)],
);

/** Folders on the server's disk in which images are looked for. */
export const searchRoots = pgTable('search_roots', {
  id: serial('id').primaryKey(),
  path: text('path').notNull().unique(),
  state: text('state').$type<'waiting' | 'indexing' | 'ready' | 'failed'>().notNull().default('waiting'),
  message: text('message').notNull().default(''),
  indexedAt: timestamp('indexed_at', { withTimezone: true }),
  createdAt: created(),
});

/** Images below a search root: names and sizes at once, hashes and headers as they are read. */
export const rootFiles = pgTable(
  'root_files',
  {
    id: serial('id').primaryKey(),
    rootId: integer('root_id')
      .notNull()
      .references(() => searchRoots.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    /** The name without type, case and accents. */
    stem: text('stem').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    modified: timestamp('modified', { withTimezone: true }).notNull(),
    sha256: text('sha256'),
    info: jsonb('info').$type<ImageInfo>(),
  },
  (table) => [unique().on(table.rootId, table.path), index().on(table.stem), index().on(table.sha256)],
);

/** A folder whose changes become new deliveries of an asset by themselves. */
export const watchedFolders = pgTable('watched_folders', {
  assetId: uuid('asset_id')
    .primaryKey()
    .references(() => assets.id, { onDelete: 'cascade' }),
  path: text('path').notNull(),
  message: text('message').notNull().default(''),
  seenAt: timestamp('seen_at', { withTimezone: true }),
});

/** What is to be done to whatever comes into a folder. */
export const arrivalFolders = pgTable('arrival_folders', {
  id: uuid('id').primaryKey().defaultRandom(),
  path: text('path').notNull().unique(),
  /** Rulebooks by id or by word, destinations by id. */
  rules: jsonb('rules').$type<string[]>().notNull(),
  destinations: jsonb('destinations').$type<string[]>().notNull(),
  mend: boolean('mend').notNull(),
  /** Where packages are written, if anywhere. */
  output: text('output'),
  /** Why the folder, or a file of it, could not be read or written. */
  message: text('message').notNull().default(''),
  seenAt: timestamp('seen_at', { withTimezone: true }),
  createdAt: created(),
});

/** A file or folder that came into a folder of arrivals, as it was when it was taken. */
export const arrivalEntries = pgTable(
  'arrival_entries',
  {
    folderId: uuid('folder_id')
      .notNull()
      .references(() => arrivalFolders.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    /** Sizes and times; whatever has others has come again. */
    stamp: text('stamp').notNull(),
    parcelId: uuid('parcel_id').references(() => parcels.id, { onDelete: 'set null' }),
    state: text('state').$type<'working' | 'done' | 'asks' | 'failed'>().notNull(),
    /** What a person has to look at. */
    note: text('note').notNull().default(''),
    /** Folders that were written below the output. */
    wrote: jsonb('wrote').$type<string[]>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.folderId, table.name] })],
);

/** Wirings of slots that were saved from a material. */
export const slotTemplates = pgTable('slot_templates', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  template: jsonb('template').$type<SlotTemplate>().notNull(),
  createdAt: created(),
});

/** Images converted to another colour space; done ones lie in the asset's parcel. */
export const conversions = pgTable('conversions', {
  id: ofJob(),
  assetId: uuid('asset_id')
    .notNull()
    .references(() => assets.id, { onDelete: 'cascade' }),
  request: jsonb('request').$type<ConversionRequest>().notNull(),
  path: text('path'),
  report: jsonb('report').$type<ConvertReport>(),
  createdAt: created(),
});

/** New images made from a material's own by a recipe; done ones lie in the asset's parcel and are in use. */
export const makings = pgTable(
  'makings',
  {
    id: ofJob(),
    assetId: uuid('asset_id')
      .notNull()
      .references(() => assets.id, { onDelete: 'cascade' }),
    request: jsonb('request').$type<MakeRequest>().notNull(),
    paths: jsonb('paths').$type<string[]>().notNull().default([]),
    notes: jsonb('notes').$type<DerivedMapNote[]>().notNull().default([]),
    createdAt: created(),
  },
  (table) => [index().on(table.assetId)],
);

/** Canonical materials that take the place of others by name. */
export const shelfMaterials = pgTable('shelf_materials', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  /** Names that it was last put in the place of. */
  pattern: text('pattern').notNull().default(''),
  kept: jsonb('kept').$type<KeptMaterial>().notNull(),
  createdAt: created(),
});

/** Uploaded pictures of light from all around, as HDR or EXR in latitude and longitude. */
export const environments = pgTable('environments', {
  id: serial('id').primaryKey(),
  name: text('name').notNull(),
  sha256: text('sha256').notNull().unique(),
  type: text('type').$type<'hdr' | 'exr'>().notNull(),
  createdAt: created(),
});

/** Words of the house for channels, as names are split: in lower case and joined. */
export const houseWords = pgTable('house_words', {
  word: text('word').primaryKey(),
  channel: text('channel').$type<ChannelName>().notNull(),
  createdAt: created(),
});

/**
 * What people answered when they were asked which set of images is whose; evidence for later parcels of the
 * same source.
 */
export const setAnswers = pgTable(
  'set_answers',
  {
    id: serial('id').primaryKey(),
    answer: jsonb('answer').$type<SetAnswer>().notNull(),
    /** The asset's name when it was asked. */
    asset: text('asset').notNull(),
    createdAt: created(),
  },
  (table) => [unique().on(table.answer)],
);
