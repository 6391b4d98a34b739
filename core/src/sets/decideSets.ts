import { layoutCells, type UvLayout } from '../asset/uvLayout.ts';
import type { Material } from '../scene/material.ts';
import { assignBest } from './assignment.ts';
import { identityWords, isDefaultName } from './identity.ts';
import type { ImageSet } from './imageSet.ts';
import type { SetEvidence } from './setEvidence.ts';

/** Names this near speak for themselves where no rival comes near. */
export const CLEAR_NAME = 0.55;
const CLEAR_LEAD = 0.1;
const FAIR_NAME = 0.38;
const FAIR_LEAD = 0.25;
/** The layout alone. */
const CLEAR_LAYOUT = 0.4;
const LAYOUT_LEAD = 0.06;
/** A layout that belies what names suggest. */
const BELIED = -0.3;
/** A layout that speaks for what names leave open. */
const AGREES = 0.2;
const LEAST_VALUE = 0.12;

/** A set that is a material's beyond doubt. */
export interface SetMatch extends SetEvidence {
  material: string;
  /** The asset has but this one material to dress, and the parcel but this one set. */
  only: boolean;
}

/** Materials by sets, with what speaks for each pair. */
export interface EvidenceTable {
  rows: readonly Material[];
  sets: readonly ImageSet[];
  evidence: readonly (readonly SetEvidence[])[];
  /** Sets that other materials read already. */
  taken: ReadonlySet<ImageSet>;
  layouts: Readonly<Record<string, UvLayout>>;
  /** Other models lie beside this one; what is left over may be theirs. */
  shared: boolean;
}

/** The best assignment, and which of its pairs are beyond doubt; `open` are the rows that are not. */
export function decideSets(table: EvidenceTable): { sure: SetMatch[]; open: number[] } {
  const { rows, sets, evidence } = table;
  if (rows.length === 0 || sets.length === 0) return { sure: [], open: [] };
  const open = new Set(rows.keys());
  const free = new Set(sets.keys());
  const sure: SetMatch[] = [];
  const only = rows.length === 1 && sets.length === 1;
  const settle = (row: number, column: number, why?: string) => {
    const setEvidence = evidence[row][column];
    sure.push({
      ...setEvidence,
      material: rows[row].key,
      reasons: why ? [...setEvidence.reasons, why] : setEvidence.reasons,
      only,
    });
    open.delete(row);
    free.delete(column);
  };
  for (let round = 0; round <= rows.length; round += 1) {
    const left = [...open];
    const columns = [...free];
    if (left.length === 0 || columns.length === 0) break;
    if (
      isSharedAtlas(table, left, columns) &&
      left.every((row) => evidence[row][columns[0]].name < FAIR_NAME)
    ) {
      for (const row of left) settle(row, columns[0], SHARED_ATLAS);
      break;
    }
    const values = left.map((row) => columns.map((column) => pairValue(evidence[row][column])));
    const assigned = assignBest(values).filter(
      ({ row, column, margin }) =>
        isSure(evidence[left[row]], columns[column], margin) ||
        isAnyOfCopies(values[row], column, columns, sets),
    );
    for (const { row, column } of assigned) settle(left[row], columns[column]);
    if (assigned.length > 0) continue;
    const last = lastPair(table, left, columns);
    if (last) {
      settle(last.row, last.column, 'the only set left for the only material left');
      continue;
    }
    if (columns.length > 1 && columns.every((column) => sets[column].content === sets[columns[0]].content))
      for (const [i, row] of left.entries())
        settle(row, columns[i % columns.length], 'all sets that are left hold the very same images');
    else if (isSharedAtlas(table, left, columns))
      for (const row of left) settle(row, columns[0], SHARED_ATLAS);
    break;
  }
  return { sure, open: [...open] };
}

const SHARED_ATLAS = 'the only set left, and the layouts of these materials share it without overlap';
/** Layouts that share an image may touch, up to this share of the smaller one. */
const TOUCH = 0.12;

/** Several materials and one set: one atlas for all, where their faces lie beside each other in it. */
function isSharedAtlas(
  { rows, sets, evidence, taken, layouts, shared }: EvidenceTable,
  left: readonly number[],
  columns: readonly number[],
): boolean {
  const [column] = columns;
  if (
    shared ||
    left.length < 2 ||
    columns.length !== 1 ||
    sets[column].guess ||
    taken.has(sets[column]) ||
    !isWhole(sets[column])
  )
    return false;
  const grids: Uint8Array[] = [];
  for (const row of left) {
    const layout = layouts[rows[row].key];
    if (!layout || layout.repeats > 0 || (evidence[row][column].layout ?? 0) <= BELIED) return false;
    grids.push(layoutCells(layout));
  }
  return grids.every((grid, i) => grids.slice(i + 1).every((other) => overlapOf(grid, other) <= TOUCH));
}

/** Share of the smaller layout's cells that the other covers too. */
function overlapOf(first: Uint8Array, second: Uint8Array): number {
  let [both, a, b] = [0, 0, 0];
  for (let i = 0; i < first.length; i += 1) {
    a += first[i];
    b += second[i];
    both += first[i] & second[i];
  }
  const smaller = Math.min(a, b);
  return smaller === 0 ? 1 : both / smaller;
}

function pairValue(evidence: SetEvidence): number {
  return speaks(evidence) ? Math.max(0, evidence.score) : 0;
}

/** Whether a name or the layout speaks for a pair at all. */
export function speaks({ name, layout }: Pick<SetEvidence, 'name' | 'layout'>): boolean {
  return name >= LEAST_VALUE || (layout ?? 0) >= LEAST_VALUE;
}

/** The rivals hold the very same images, so that it does not matter which is taken. */
function isAnyOfCopies(
  values: readonly number[],
  column: number,
  columns: readonly number[],
  sets: readonly ImageSet[],
): boolean {
  const content = sets[columns[column]].content;
  const rivals = columns.filter((_, i) => i !== column && values[i] > values[column] - FAIR_LEAD);
  return (
    rivals.length > 0 &&
    rivals.every((rival) => sets[rival].content === content) &&
    columns.every((other) => sets[other].content === content)
  );
}

function isSure(row: readonly SetEvidence[], column: number, margin: number): boolean {
  const { name, layout, narrower } = row[column];
  if (layout !== null && layout <= BELIED && row.some((other) => (other.layout ?? -1) >= CLEAR_LAYOUT))
    return false;
  // `mast` never takes the images of `mast rope`, unless the layout speaks for it.
  if (narrower && (layout ?? 0) < AGREES) return false;
  if (name >= CLEAR_NAME) return margin >= CLEAR_LEAD * 0.999;
  if (name >= FAIR_NAME) return margin >= ((layout ?? 0) >= AGREES ? CLEAR_LEAD : FAIR_LEAD);
  return layout !== null && layout >= CLEAR_LAYOUT && margin >= LAYOUT_LEAD;
}

/**
 * One material and one set are left. Names that both say something else are asked about, unless the layout
 * agrees.
 */
function lastPair(
  { rows, sets, evidence, taken, shared }: EvidenceTable,
  left: readonly number[],
  columns: readonly number[],
): { row: number; column: number } | null {
  if (left.length !== 1) return null;
  const [row] = left;
  const all = columns.filter((column) => !taken.has(sets[column]) && isWhole(sets[column]));
  // An image that nothing but its colours speaks for is no rival of a set that says what it is.
  const told = all.filter((column) => !sets[column].guess);
  const whole =
    told.length === 1 && all.every((column) => column === told[0] || isMute(evidence[row][column]))
      ? told
      : all;
  if (whole.length !== 1) return null;
  const [column] = whole;
  const { layout, name, narrower } = evidence[row][column];
  const alone = rows.length === 1 && sets.length === 1;
  // `mast rope` is hardly meant for `mast` where there are others that it could be for.
  const other = narrower && !(alone && !shared) && (layout ?? 0) < AGREES;
  if ((layout !== null && layout <= BELIED) || other) return null;
  if (shared && !speaks(evidence[row][column])) return null;
  if (sets[column].guess && !alone) return null;
  const silent =
    isDefaultName(identityWords(rows[row].name)) ||
    isDefaultName(identityWords(sets[column].words.join(' ')));
  return alone || silent || name >= LEAST_VALUE || (layout ?? 0) >= 0.15 ? { row, column } : null;
}

/** One image without a word for a channel, whose name is not the material's either. */
function isMute({ set, name }: SetEvidence): boolean {
  return set.guess && name < LEAST_VALUE;
}

/** A set that can dress a material: a base colour, or two channels. */
function isWhole({ members }: ImageSet): boolean {
  return members.length > 1 || members.some(({ reading }) => reading.channel === 'baseColor');
}
