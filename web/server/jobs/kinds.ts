import type { TagRepair } from '@kinkajou/core/asset/repairTags';
import type { Rulebook } from '@kinkajou/core/rules/rulebook';

/** What is done to an arrival once it was read. Plain JSON. */
export interface ArrivalOrders {
  books: Rulebook[];
  destinations: string[];
  mend: boolean;
}

/** An answer to what one finding of an asset asks. */
export interface QuestionAnswer {
  asset: string;
  finding: string;
  choice: string;
}

/** What a run does to each of its assets; null stands for all on the shelf. */
export interface RunData {
  title?: string;
  books: Rulebook[];
  assets: string[] | null;
  /** Else it is only tried. */
  apply: boolean;
  /** What is asked of them is answered. */
  answers?: QuestionAnswer[];
  /** Whatever else is safely mended. */
  mend?: boolean;
  /** Packages are made, with what their destinations need by default. */
  destinations?: string[];
  /** An upload with newer files for several of them, by the id of its parcel. */
  deliver?: string;
  /** The last package for each destination is held against the asset as it is now. */
  compare?: boolean;
  /** They are taken off the shelf. */
  remove?: boolean;
  /** Of what has just arrived in a parcel, the images are looked at before. */
  arrived?: string;
}

/**
 * Another asset that is put beside one's model, and where: in metres, Y up, turned about the upright axis.
 */
export interface JoinOrder {
  from: string;
  /** Of the group that holds its parts; its own unless told. */
  name: string;
  at: [number, number, number];
  /** Degrees. */
  turn: number;
  scale: number;
}

/** Jobs and what each carries. A handoff, making or conversion has the id of its job. */
export interface JobData {
  'read-parcel': { parcelId: string };
  'read-delivery': { parcelId: string; assetId: string };
  'join-assets': JoinOrder & { parcelId: string; assetId: string };
  'look-at-images': { parcelId: string };
  'draw-thumbnail': { assetId: string };
  'index-root': { rootId: number };
  'hand-off': { assetId: string };
  'make-maps': { assetId: string };
  'convert-image': { assetId: string };
  'repair-tags': { assets: string[] | null; repair: Omit<TagRepair, 'slots'> };
  'replace-materials': { material: number; pattern: string; assetId: string | null };
  'apply-rules': RunData;
  'write-packages': { run: string; folder: string };
  'draw-trial': { books: Rulebook[]; assets: string[] };
}
/** Name of a kind of job. */
export type JobName = keyof JobData;

/** What a job is about, for those who look at that. */
const SUBJECTS: { [N in JobName]: (data: JobData[N]) => string } = {
  'read-parcel': ({ parcelId }) => parcelId,
  'read-delivery': ({ parcelId }) => parcelId,
  'join-assets': ({ parcelId }) => parcelId,
  'look-at-images': ({ parcelId }) => parcelId,
  'draw-thumbnail': ({ assetId }) => assetId,
  'index-root': ({ rootId }) => String(rootId),
  'hand-off': ({ assetId }) => assetId,
  'make-maps': ({ assetId }) => assetId,
  'convert-image': ({ assetId }) => assetId,
  'repair-tags': () => 'shelf',
  'replace-materials': ({ assetId }) => assetId ?? 'shelf',
  'apply-rules': () => 'shelf',
  'write-packages': ({ run }) => run,
  'draw-trial': () => 'shelf',
};

/** Names of all kinds of jobs. */
export const JOB_NAMES = Object.keys(SUBJECTS) as JobName[];

/** What a job is about, in words. */
export function subjectOf<N extends JobName>(name: N, data: JobData[N]): string {
  return SUBJECTS[name](data);
}
