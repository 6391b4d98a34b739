import { csvTable } from '@kinkajou/core/csv';
import { type SQL, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import { assets, edits, handoffs, jobs, parcelFiles, parcels } from '../db/schema.ts';

/** How many assets had something of a kind, and how many have it still. */
export interface InsightRow {
  /** What the filters of the shelf know it by. */
  value: string;
  title: string;
  found: number;
  left: number;
}

/** Sums over the whole shelf. */
export interface Insights {
  assets: number;
  byCode: InsightRow[];
  /** Kinds of findings, summed over the assets of a program, a parcel, a week. */
  byGenerator: InsightRow[];
  byParcel: InsightRow[];
  /** By the Monday of the week in which they came, as YYYY-MM-DD. */
  byWeek: InsightRow[];
  /** Edits that hold, by who made them: a hand, a mend, or the rule named. */
  byWhom: { title: string; rulebook: string | null; edits: number; assets: number }[];
  /** From arrival to the first package: how many assets, and the middle of their seconds. */
  handedOff: { assets: number; seconds: number | null };
  /** Bytes of what came and of the packages that were made. */
  bytes: { came: number; went: number };
}

const MOST = 40;
const THERE = sql`${assets.removedAt} is null`;

/** What was wrong, mended and left, over all assets on the shelf. */
export async function insights(): Promise<Insights> {
  const tallied = sql`select ${assets.id} as id, ${assets.generator} as generator, ${assets.parcelId} as parcel, ${assets.createdAt} as came, key, value, jsonb_exists(${assets.open}, key) as left from ${assets}, jsonb_each_text(${assets.found}) where ${THERE}`;
  const grouped = (value: SQL, title: SQL, order: SQL) =>
    sql`select ${value} as value, ${title} as title, count(*) as found, count(*) filter (where t.left) as left from (${tallied}) t group by 1 order by ${order} limit ${MOST}`;
  const most = sql`count(*) desc, 1`;
  const week = sql`to_char(date_trunc('week', t.came at time zone 'UTC'), 'YYYY-MM-DD')`;
  const [byCode, byGenerator, byParcel, byWeek, byWhom, [times], [sizes], [{ total }]] = await Promise.all([
    rows(grouped(sql`t.key`, sql`mode() within group (order by t.value)`, most)),
    rows(grouped(sql`t.generator`, sql`t.generator`, most)),
    rows(
      grouped(
        sql`t.parcel::text`,
        sql`min((select ${parcels.name} from ${parcels} where ${parcels.id} = t.parcel))`,
        sql`max(t.came) desc`,
      ),
    ),
    rows(grouped(week, week, sql`1`)),
    whoMended(),
    db()
      .execute<{ assets: string; seconds: number | null }>(
        sql`select count(*) as assets, percentile_cont(0.5) within group (order by extract(epoch from first.at - ${assets.createdAt})) as seconds from ${assets} join (select ${handoffs.assetId} as id, min(${jobs.finishedAt}) as at from ${handoffs} join ${jobs} on ${jobs.id} = ${handoffs.id} where ${jobs.state} = 'done' group by 1) first on first.id = ${assets.id} where ${THERE}`,
      )
      .then(({ rows: found }) => found),
    db()
      .execute<{ came: string; went: string }>(
        sql`select (select coalesce(sum(${parcelFiles.size}), 0) from ${parcelFiles} where ${parcelFiles.kind} = 'file' and ${parcelFiles.parcelId} in (select ${assets.parcelId} from ${assets} where ${THERE})) as came, (select coalesce(sum(${handoffs.zipSize}), 0) from ${handoffs} join ${assets} on ${assets.id} = ${handoffs.assetId} where ${THERE}) as went`,
      )
      .then(({ rows: found }) => found),
    db()
      .execute<{ total: string }>(sql`select count(*) as total from ${assets} where ${THERE}`)
      .then(({ rows: found }) => found),
  ]);
  return {
    assets: Number(total),
    byCode,
    byGenerator,
    byParcel,
    byWeek,
    byWhom,
    handedOff: {
      assets: Number(times.assets),
      seconds: times.seconds === null ? null : Number(times.seconds),
    },
    bytes: { came: Number(sizes.came), went: Number(sizes.went) },
  };
}

async function rows(query: SQL): Promise<InsightRow[]> {
  const { rows: found } = await db().execute<{ value: string; title: string; found: string; left: string }>(
    query,
  );
  return found.map((row) => ({
    value: row.value,
    title: row.title,
    found: Number(row.found),
    left: Number(row.left),
  }));
}

const WHO: Record<string, string> = {
  hand: 'by hand',
  evidence: 'mends',
  file: 'as the file says',
  rule: 'rules',
};

async function whoMended(): Promise<Insights['byWhom']> {
  const origin = sql`${edits.edit}->'origin'`;
  const { rows: found } = await db().execute<{
    from: string | null;
    rule: string | null;
    rulebook: string | null;
    edits: string;
    assets: string;
  }>(
    sql`select ${origin}->>'from' as from, ${origin}->'rule'->>'rule' as rule, ${origin}->'rule'->>'rulebook' as rulebook, count(*) as edits, count(distinct ${edits.assetId}) as assets from ${edits} join ${assets} on ${assets.id} = ${edits.assetId} where ${THERE} and ${edits.seq} <= ${assets.cursor} group by 1, 2, 3 order by count(*) desc, 1, 2 limit ${MOST}`,
  );
  return found.map((row) => ({
    title: row.rule ?? WHO[row.from ?? 'hand'] ?? WHO.hand,
    rulebook: row.rulebook,
    edits: Number(row.edits),
    assets: Number(row.assets),
  }));
}

/** All of it as a table: what it is by, its name, and the numbers. */
export async function insightsCsv(): Promise<string> {
  const { byCode, byGenerator, byParcel, byWeek, byWhom } = await insights();
  const tables = { finding: byCode, program: byGenerator, parcel: byParcel, week: byWeek };
  const lines = Object.entries(tables).flatMap(([by, list]) =>
    list.map(({ value, title, found, left }) => [
      by,
      by === 'finding' ? value : title,
      found,
      found - left,
      left,
    ]),
  );
  const whom = byWhom.map(({ title, edits: made }) => ['edits by', title, '', made, '']);
  return csvTable([['by', 'name', 'found', 'mended', 'left'], ...lines, ...whom]);
}
