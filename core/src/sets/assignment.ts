/** One row's column in the best assignment, and by how much it is the best. */
export interface Assigned {
  row: number;
  column: number;
  /** What the total loses when this pair is forbidden; 0 where another assignment does as well. */
  margin: number;
}

/** Of more rows than this that hang together, margins are told by the rivals in row and column alone. */
const MOST_EXACT = 80;

/**
 * Assigns rows to columns one to one so that the sum of values is greatest (shortest augmenting paths, O(n^3)
 * for rows that hang together). Pairs with a value of 0 or less are never made. Values are in any unit;
 * `values[row][column]`, all rows of equal length.
 */
export function assignBest(values: readonly (readonly number[])[]): Assigned[] {
  return componentsOf(values)
    .flatMap(({ rows, columns }) => assignComponent(values, rows, columns))
    .sort((a, b) => a.row - b.row);
}

function assignComponent(
  values: readonly (readonly number[])[],
  rows: readonly number[],
  columns: readonly number[],
): Assigned[] {
  const part = rows.map((row) => columns.map((column) => values[row][column]));
  const best = solve(part);
  return best.columnOf.flatMap((column, row): Assigned[] => {
    if (column < 0) return [];
    const margin =
      rows.length > MOST_EXACT
        ? leadOf(part, row, column)
        : best.total - solve(forbid(part, row, column)).total;
    return [{ row: rows[row], column: columns[column], margin: Math.max(0, margin) }];
  });
}

function forbid(values: readonly number[][], row: number, column: number): number[][] {
  return values.map((line, i) => (i === row ? line.map((value, j) => (j === column ? 0 : value)) : line));
}

/** By how much a pair leads the others of its row and its column. */
function leadOf(values: readonly number[][], row: number, column: number): number {
  let rival = 0;
  for (const [j, value] of values[row].entries()) if (j !== column) rival = Math.max(rival, value);
  for (const [i, line] of values.entries()) if (i !== row) rival = Math.max(rival, line[column]);
  return values[row][column] - rival;
}

/** Rows and columns that pairs of some value join. */
function componentsOf(values: readonly (readonly number[])[]): { rows: number[]; columns: number[] }[] {
  const width = values[0]?.length ?? 0;
  const seenRow = new Set<number>();
  const seenColumn = new Set<number>();
  const components: { rows: number[]; columns: number[] }[] = [];
  for (let first = 0; first < values.length; first += 1) {
    if (seenRow.has(first)) continue;
    const component = { rows: [] as number[], columns: [] as number[] };
    const open = [first];
    seenRow.add(first);
    for (let row = open.pop(); row !== undefined; row = open.pop()) {
      component.rows.push(row);
      for (let column = 0; column < width; column += 1) {
        if (values[row][column] <= 0 || seenColumn.has(column)) continue;
        seenColumn.add(column);
        component.columns.push(column);
        for (let other = 0; other < values.length; other += 1) {
          if (values[other][column] <= 0 || seenRow.has(other)) continue;
          seenRow.add(other);
          open.push(other);
        }
      }
    }
    component.rows.sort((a, b) => a - b);
    component.columns.sort((a, b) => a - b);
    if (component.columns.length > 0) components.push(component);
  }
  return components;
}

/** Each row may also stay alone, in a column of its own that is worth nothing. */
function solve(values: readonly number[][]): { columnOf: number[]; total: number } {
  const n = values.length;
  const real = values[0].length;
  const m = real + n;
  const cost = (i: number, j: number) => (j < real ? -Math.max(0, values[i][j]) : 0);
  const u = new Float64Array(n + 1);
  const v = new Float64Array(m + 1);
  const rowOf = new Int32Array(m + 1);
  const way = new Int32Array(m + 1);
  for (let i = 1; i <= n; i += 1) {
    rowOf[0] = i;
    let j0 = 0;
    const least = new Float64Array(m + 1).fill(Number.POSITIVE_INFINITY);
    const used = new Uint8Array(m + 1);
    do {
      used[j0] = 1;
      const i0 = rowOf[j0];
      let delta = Number.POSITIVE_INFINITY;
      let j1 = 0;
      for (let j = 1; j <= m; j += 1) {
        if (used[j]) continue;
        const reduced = cost(i0 - 1, j - 1) - u[i0] - v[j];
        if (reduced < least[j]) {
          least[j] = reduced;
          way[j] = j0;
        }
        if (least[j] < delta) {
          delta = least[j];
          j1 = j;
        }
      }
      for (let j = 0; j <= m; j += 1) {
        if (used[j]) {
          u[rowOf[j]] += delta;
          v[j] -= delta;
        } else least[j] -= delta;
      }
      j0 = j1;
    } while (rowOf[j0] !== 0);
    do {
      const j1 = way[j0];
      rowOf[j0] = rowOf[j1];
      j0 = j1;
    } while (j0 !== 0);
  }
  const columnOf = new Array<number>(n).fill(-1);
  let total = 0;
  for (let j = 1; j <= m; j += 1) {
    const row = rowOf[j] - 1;
    if (row < 0) continue;
    const value = -cost(row, j - 1);
    total += value;
    if (value > 0) columnOf[row] = j - 1;
  }
  return { columnOf, total };
}
