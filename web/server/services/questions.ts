import type { Doubt } from '@kinkajou/core/findings/doubts';
import { SEVERITIES } from '@kinkajou/core/findings/finding';
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, parcelFiles } from '../db/schema.ts';
import type { QuestionAnswer, RunData } from '../jobs/kinds.ts';
import { enqueue } from '../jobs/queue.ts';

/** One of the findings that ask the same. */
export interface Member {
  asset: string;
  name: string;
  thumbnail: string | null;
  finding: string;
  /** By place of the group's choices, the id of this one's own. */
  choices: string[];
}

/** Doubts of many assets that one answer settles. */
export interface QuestionGroup extends Omit<Doubt, 'key' | 'choices'> {
  /** Of the first of them; images by their contents. */
  choices: (Omit<Doubt['choices'][number], 'images'> & { path: string; pictures: string[] })[];
  members: Member[];
}

/** All that is asked on the shelf, alike doubts as one, the biggest first. */
export async function listQuestions(): Promise<QuestionGroup[]> {
  const rows = await db()
    .select({
      id: assets.id,
      parcelId: assets.parcelId,
      name: assets.name,
      thumbnail: assets.thumbnail,
      doubts: assets.doubts,
    })
    .from(assets)
    .where(and(isNull(assets.removedAt), sql`jsonb_array_length(${assets.doubts}) > 0`))
    .orderBy(asc(sql`${assets.name} collate "kinkajou_numeric"`));
  const groups = new Map<string, { first: Doubt; parcelId: string; members: Member[] }>();
  for (const { id, parcelId, name, thumbnail, doubts } of rows) {
    for (const doubt of doubts) {
      const group = groups.get(doubt.kind) ?? { first: doubt, parcelId, members: [] };
      groups.set(doubt.kind, group);
      group.members.push({
        asset: id,
        name,
        thumbnail,
        finding: doubt.key,
        choices: doubt.choices.map((choice) => choice.id),
      });
    }
  }
  const pictures = await picturesOf([...groups.values()]);
  const listed = [...groups.values()].map(
    ({ first: { key: _, choices, ...first }, parcelId, members }): QuestionGroup => ({
      ...first,
      choices: choices.map(({ images, ...choice }) => ({
        ...choice,
        path: images[0] ?? '',
        pictures: images.flatMap((path) => pictures.get(`${parcelId} ${path}`) ?? []),
      })),
      members,
    }),
  );
  const worst = ({ severity }: QuestionGroup) => SEVERITIES.indexOf(severity);
  return listed.sort(
    (a, b) => b.members.length - a.members.length || worst(a) - worst(b) || (a.kind < b.kind ? -1 : 1),
  );
}

/** Contents of the images that choices would bring in, by parcel and path. */
async function picturesOf(
  groups: readonly { first: Doubt; parcelId: string }[],
): Promise<Map<string, string>> {
  const paths = groups.flatMap(({ first }) => first.choices.flatMap(({ images }) => images));
  if (paths.length === 0) return new Map();
  const parcels = [...new Set(groups.map(({ parcelId }) => parcelId))];
  const rows = await db()
    .select({ parcelId: parcelFiles.parcelId, path: parcelFiles.path, sha256: parcelFiles.sha256 })
    .from(parcelFiles)
    .where(
      and(
        inArray(parcelFiles.parcelId, parcels),
        inArray(parcelFiles.path, [...new Set(paths)]),
        eq(parcelFiles.kind, 'file'),
      ),
    );
  return new Map(rows.map(({ parcelId, path, sha256 }) => [`${parcelId} ${path}`, sha256]));
}

/** Answers findings of many assets, in a run that can be undone. Returns its id. */
export async function answerQuestions(title: string, answers: QuestionAnswer[]): Promise<string> {
  const data: RunData = {
    title,
    books: [],
    apply: true,
    answers,
    assets: [...new Set(answers.map(({ asset }) => asset))],
  };
  return enqueue('apply-rules', data);
}
