import { initialState } from '@kinkajou/core/asset/asset';
import { findFindings } from '@kinkajou/core/findings/checks';
import type { Finding } from '@kinkajou/core/findings/finding';
import { inspectReport } from '@kinkajou/core/inspect';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';

interface InspectOptions {
  search: string[];
  json?: boolean;
}

/** Lists what a model holds and what is wrong. With several models in one path the JSON is `{ "assets": [...] }`. */
export async function runInspect(path: string, options: InspectOptions, output: Output): Promise<number> {
  let errors = 0;
  const { results: reports, unreadable } = await withAssets(path, options.search, output, async (asset) => {
    const state = initialState(asset.source);
    const findings = findFindings(asset.source, state, asset.images);
    errors += findings.filter((finding) => finding.severity === 'error').length;
    const report = inspectReport(asset, state, findings);
    if (!options.json) printReport(report, findings, output);
    return report;
  });
  if (options.json) output.json(reports.length === 1 ? reports[0] : { assets: reports });
  return errors + unreadable > 0 ? EXIT.errorsRemain : EXIT.done;
}

function printReport(report: ReturnType<typeof inspectReport>, findings: Finding[], output: Output): void {
  const { counts, bounds } = report;
  output.text(`${report.file}: ${report.format} ${report.variant}, ${report.upAxis} up, ${report.metresPerUnit} m per unit`);
  output.text(`  ${counts.meshes} meshes, ${counts.polygons} polygons, ${counts.materials} materials, ${counts.maps} maps`);
  if (bounds) output.text(`  ${bounds.max.map((value, i) => (value - bounds.min[i]).toFixed(3)).join(' x ')} m`);
  for (const finding of findings) {
    output.text(
      `  ${finding.severity.padEnd(7)} ${finding.code.padEnd(18)} ${finding.message}${finding.mend ? ` [${finding.safe ? 'safe mend' : 'mend'}]` : ''}`,
    );
  }
}
