import { initialState } from '@kinkajou/core/asset/asset';
import { describeEdit } from '@kinkajou/core/edits/log';
import { findFindings } from '@kinkajou/core/findings/checks';
import { type Finding, needsPerson, openFinding } from '@kinkajou/core/findings/finding';
import { inspectReport } from '@kinkajou/core/inspect';
import { factsOf, mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';
import { readWords } from './words.ts';

interface InspectOptions {
  search: string[];
  mend: string;
  words?: string;
  choose: string[];
  json?: boolean;
}

/**
 * Lists what a model holds and what is wrong. With several models in one path the JSON is `{ "assets": [...]
 * }`. With `--mend` it also lists the edits that would be made, and what would be left; nothing is written.
 */
export async function runInspect(path: string, options: InspectOptions, output: Output): Promise<number> {
  const level = mendLevel(options.mend);
  const house = await readWords(options.words);
  let left = 0;
  const { results: reports, unreadable } = await withAssets(path, options.search, output, async (given) => {
    const state = initialState(given.source);
    const { asset, facts } = await factsOf(given, output);
    const findings = findFindings(asset.source, state, asset.images, { facts, house });
    const report = inspectReport(asset, state, findings);
    const idle = level === 'none' && options.choose.length === 0;
    const mended = idle
      ? { edits: [], findings, state, asset }
      : await mendWithFacts(asset, level, output, { known: facts, house, choose: options.choose });
    left += mended.findings.filter(needsPerson).length;
    if (!options.json) printReport(report, findings, output);
    if (idle) return report;
    const mends = mended.edits.map((edit) => ({
      kind: edit.kind,
      text: describeEdit(edit),
      reason: edit.origin.detail,
    }));
    if (!options.json) printMends(mends, mended.findings, output);
    const { materials, images } = inspectReport(mended.asset, mended.state, []);
    return { ...report, materials, images, mended: mends, remaining: mended.findings.map(openFinding) };
  });
  if (options.json) output.json(reports.length === 1 ? reports[0] : { assets: reports });
  return left + unreadable > 0 ? EXIT.errorsRemain : EXIT.done;
}

function printReport(report: ReturnType<typeof inspectReport>, findings: Finding[], output: Output): void {
  const { counts, bounds } = report;
  output.text(
    `${report.file}: ${report.format} ${report.variant}, ${report.upAxis} up, ${report.metresPerUnit} m per unit`,
  );
  output.text(
    `  ${counts.meshes} meshes, ${counts.polygons} polygons, ${counts.materials} materials, ${counts.maps} maps`,
  );
  if (bounds)
    output.text(`  ${bounds.max.map((value, i) => (value - bounds.min[i]).toFixed(3)).join(' x ')} m`);
  for (const finding of findings) {
    output.text(
      `  ${finding.severity.padEnd(7)} ${finding.code.padEnd(18)} ${finding.message}${finding.mend || finding.make ? ` [${finding.safe ? 'safe mend' : 'mend'}]` : ''}`,
    );
  }
}

function printMends(
  mends: readonly { text: string; reason: string }[],
  left: readonly Finding[],
  output: Output,
): void {
  for (const { text, reason } of mends) output.text(`  would mend: ${text}${reason ? ` (${reason})` : ''}`);
  for (const { severity, code, message } of left) output.text(`  left: ${severity} ${code} ${message}`);
  output.text(
    `  ${mends.length} ${mends.length === 1 ? 'edit' : 'edits'} would be made, ${left.length} ${left.length === 1 ? 'finding' : 'findings'} left`,
  );
}
