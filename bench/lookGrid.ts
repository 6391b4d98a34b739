import { allCells, cellName } from './plates/cells.ts';
import { measureCell } from './plates/grid.ts';

/**
 * `npm run grid [WORD ...]`: plates in every format, way of writing, kind of values and transparency, to
 * every destination; each is read by outside means and held against numbers worked out by hand. Words pick
 * cells that hold them all. Exits 1 when a look changed without a word.
 */
const words = process.argv.slice(2);
const cells = allCells().filter((cell) => words.every((word) => cellName(cell).includes(word)));
const tally = new Map<string, { cells: number; right: number; told: number }>();
let failed = 0;
for (const cell of cells) {
  const row = tally.get(cell.goal.destination) ?? { cells: 0, right: 0, told: 0 };
  tally.set(cell.goal.destination, row);
  row.cells += 1;
  try {
    const { wrong, losses } = await measureCell(cell);
    if (wrong.length > 0) {
      failed += 1;
      console.log(wrong.join('\n'));
    } else if (losses.length > 0) row.told += 1;
    else row.right += 1;
  } catch (error) {
    failed += 1;
    console.log(`${cellName(cell)}: ${error instanceof Error ? error.message : error}`);
  }
}
console.log('\n| destination | cells | right | right, and the rest told |\n|---|---|---|---|');
for (const [destination, { cells: count, right, told }] of tally)
  console.log(`| ${destination} | ${count} | ${right} | ${told} |`);
console.log(`\n${cells.length} cells, ${failed} wrong`);
process.exitCode = failed > 0 ? 1 : 0;
