import type { AssetSource, AssetState, Edit, ParcelImage, WorkflowChange } from '@kinkajou/core/asset/asset';
import { describeEdit, replay } from '@kinkajou/core/edits/log';
import type { Finding } from '@kinkajou/core/findings/finding';
import { applyDelta, deltaOf, type KeyedDelta } from '@kinkajou/core/keyedDelta';
import type { Candidate } from '@kinkajou/core/links/rank';
import type { DetectedMap } from '@kinkajou/core/maps/detectMaps';
import type { Suggestion } from '@kinkajou/core/sets/suggest';
import type { DeliverySummary } from '../db/rowTypes.ts';

/** One edit of the log, undone ones included. */
export interface LoggedEdit {
  seq: number;
  /** Number of the first edit of its act. */
  act: number;
  edit: Edit;
  at: string;
  /** The page that added it; '' for jobs and scripts. */
  author: string;
}

/**
 * What the server tells a page of an asset: the source, the edits, and what follows from both but takes
 * pixels or other parcels to know. The page makes the state itself.
 */
export interface BenchData {
  id: string;
  /** Names this answer: the revision, and a stamp of what is known beside the asset. */
  version: string;
  revision: number;
  name: string;
  parcel: { id: string; name: string };
  geometry: string;
  source: Omit<AssetSource, 'uvLayouts'>;
  log: LoggedEdit[];
  /** How many edits of the log are applied. */
  cursor: number;
  images: ParcelImage[];
  findings: Finding[];
  /** Findings of the untouched source that are gone now. */
  mended: number;
  candidates: Record<string, readonly Candidate[]>;
  /** Images of search folders and other parcels that are among the candidates. */
  further: ParcelImage[];
  /** What each image is, by name, siblings and pixels. */
  detected: DetectedMap[];
  /** Images of sets that are their material's beyond doubt, for slots that are empty. */
  fills: Suggestion[];
  /** Materials whose images are painted for another shading model than theirs. */
  workflows: WorkflowChange[];
  /** Converted copies of other images, by path. */
  sidecars: { path: string; original: string }[];
  /** Images whose pixels were looked at. */
  looked: { done: number; total: number };
  deliveries: { id: string; summary: DeliverySummary; at: string }[];
  /** The folder whose changes come in by themselves. */
  watched: { path: string; message: string } | null;
  /** Parts of edits whose address no longer exists. */
  skipped: string[];
}

/** One line of the edit log. */
interface LogEntry {
  seq: number;
  act: number;
  text: string;
  from: string;
  detail: string;
  at: string;
  undone: boolean;
}

/** All that the bench shows of one asset. */
export type BenchView = Omit<BenchData, 'log'> & { state: AssetState; log: LogEntry[] };

/** The view that follows from the data: the edits up to the cursor on top of the source. */
export function viewOf(data: BenchData): BenchView {
  const { log, source, images, further, cursor } = data;
  const applied = log.filter(({ seq }) => seq <= cursor).map(({ edit }) => edit);
  const { state } = replay(source, applied, [...images, ...further]);
  return {
    ...data,
    state,
    log: log.map(({ seq, act, edit, at: place }) => ({
      seq,
      act,
      text: describeEdit(edit),
      from: edit.origin.from,
      detail: edit.origin.detail,
      at: place,
      undone: seq > cursor,
    })),
  };
}

/** Lists whose items have keys: of these only what changed is told. */
const KEYED = {
  log: ({ seq, act }: LoggedEdit) => `${seq} ${act}`,
  images: ({ path }: ParcelImage) => path,
  findings: ({ key }: Finding) => key,
  further: ({ path }: ParcelImage) => path,
  detected: ({ path }: DetectedMap) => path,
  sidecars: ({ path }: { path: string }) => path,
  deliveries: ({ id }: { id: string }) => id,
} satisfies { [K in keyof BenchData]?: (item: never) => string };
type KeyedField = keyof typeof KEYED;

/** What makes the data of one version of another. */
export interface BenchDelta {
  from: string;
  fields: Partial<BenchData>;
  lists: { [K in KeyedField]?: KeyedDelta<BenchData[K][number]> };
  /** Candidates by image; null for images that have none any more. */
  candidates: Record<string, readonly Candidate[] | null>;
}

/** Everything, or what changed since the version that was asked from. */
export type BenchAnswer = { whole: BenchData } | { delta: BenchDelta };

/** What of a bench has changed, so that a page need not be sent all of it. */
export function benchDelta(before: BenchData, after: BenchData): BenchDelta {
  const delta: BenchDelta = { from: before.version, fields: {}, lists: {}, candidates: {} };
  for (const field of Object.keys(after) as (keyof BenchData)[]) {
    if (field === 'candidates') continue;
    if (field in KEYED) listDelta(delta, before, after, field as KeyedField);
    else if (!same(before[field], after[field])) Object.assign(delta.fields, { [field]: after[field] });
  }
  for (const [image, list] of Object.entries(after.candidates))
    if (!same(before.candidates[image], list)) delta.candidates[image] = list;
  for (const image of Object.keys(before.candidates))
    if (!Object.hasOwn(after.candidates, image)) delta.candidates[image] = null;
  return delta;
}

function listDelta<K extends KeyedField>(
  delta: BenchDelta,
  before: BenchData,
  after: BenchData,
  field: K,
): void {
  const keyOf = KEYED[field] as (item: BenchData[K][number]) => string;
  const [old, now] = [before[field], after[field]] as BenchData[K][number][][];
  const distinct = (list: BenchData[K][number][]) => new Set(list.map(keyOf)).size === list.length;
  if (!distinct(old) || !distinct(now)) {
    if (!same(old, now)) Object.assign(delta.fields, { [field]: now });
    return;
  }
  const difference = deltaOf(old, now, keyOf);
  if (difference) Object.assign(delta.lists, { [field]: difference });
}

/** The bench after a delta; `before` is left as it is. */
export function applyBenchDelta(before: BenchData, delta: BenchDelta): BenchData {
  const after: BenchData = { ...before, ...delta.fields };
  for (const field of Object.keys(delta.lists) as KeyedField[]) {
    const keyOf = KEYED[field] as (item: BenchData[KeyedField][number]) => string;
    Object.assign(after, {
      [field]: applyDelta(
        before[field] as BenchData[KeyedField][number][],
        delta.lists[field] as never,
        keyOf,
      ),
    });
  }
  const changed = Object.entries(delta.candidates);
  if (changed.length > 0) {
    const candidates = { ...before.candidates };
    for (const [image, list] of changed) {
      if (list) candidates[image] = list;
      else delete candidates[image];
    }
    after.candidates = candidates;
  }
  return after;
}

function same(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}
