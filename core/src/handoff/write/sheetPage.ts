import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName } from '../../scene/material.ts';
import type { TakeoffRow } from '../../shape/takeoff.ts';
import { groupedLines } from '../words.ts';
import type { Sheet, SheetMaterial } from './sheet.ts';

/** The sheet as one page without scripts; `picture` is a PNG of the asset, or null. */
export function sheetPage(sheet: Sheet, picture: Uint8Array | null): string {
  const { destination } = sheet;
  const list = (title: string, lines: readonly string[]) =>
    lines.length === 0
      ? ''
      : `<h2>${title}</h2>\n<ul>\n${lines.map((line) => `<li>${escapeText(line)}</li>`).join('\n')}\n</ul>\n`;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>${escapeText(sheet.asset)} for ${escapeText(destination.title)}</title>
<style>
body { font: 14px/1.45 sans-serif; color: #22302a; background: #fffcf4; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
h1 { font-size: 1.5rem; margin: 0 0 .25rem; } h2 { font-size: 1.05rem; margin: 1.4rem 0 .4rem; color: #1f4b3f; } h3 { font-size: 1rem; margin: 1rem 0 .3rem; }
table { border-collapse: collapse; width: 100%; margin: .3rem 0; } th, td { border: 1px solid #d9cfb8; padding: .25rem .5rem; text-align: left; vertical-align: top; }
th { background: #f5efe1; font-weight: 600; } code { font: 12px monospace; } img { float: right; width: 240px; margin: 0 0 1rem 1rem; border: 1px solid #d9cfb8; }
@media print { body { margin: 0; } h3 { break-after: avoid; } table { break-inside: avoid; } }
</style>
</head>
<body>
${picture ? `<img alt="${escapeText(sheet.asset)}" src="data:image/png;base64,${toBase64(picture)}">\n` : ''}<h1>${escapeText(sheet.asset)}</h1>
<p>Made for <b>${escapeText(destination.title)}</b>: ${escapeText(destination.summary)}.</p>
<table>
<tr><th>${sheet.models.length > 1 ? 'Models' : 'Model'}</th><td>${sheet.models.map((model) => `<code>${escapeText(model)}</code>`).join('<br>')}</td></tr>
<tr><th>Up axis, unit</th><td>${sheet.upAxis} up, ${sheet.metresPerUnit} m</td></tr>
<tr><th>Normal maps</th><td>green points ${sheet.normalY === 'Y+' ? 'up (Y+)' : 'down (Y-)'}</td></tr>
</table>
${list('To do by hand', sheet.notes)}${list('Told here alone', sheet.unsaid)}${list('Left behind', groupedLines(sheet.losses))}${list('Converted on the way', sheet.prepared)}<h2>Materials</h2>
${numberTable(sheet.materials)}${sheet.materials.map(materialSection).join('\n')}
${takeoffSection(sheet.takeoff)}</body>
</html>
`;
}

/** Which number is which material, where they were given numbers. */
function numberTable(materials: readonly SheetMaterial[]): string {
  const numbered = materials.flatMap(({ name, number }) =>
    number === undefined ? [] : [`<tr><td>${number}</td><td>${escapeText(name)}</td></tr>`],
  );
  return numbered.length === 0
    ? ''
    : `<table>\n<tr><th>Number</th><th>Material</th></tr>\n${numbered.join('\n')}\n</table>\n`;
}

function materialSection({
  name,
  number,
  copies,
  shading,
  alpha,
  doubleSided,
  values,
  mapped,
  height,
  maps,
}: SheetMaterial): string {
  const see = alpha.mode === 'mask' ? `mask, cut-off ${round(alpha.cutoff)}` : alpha.mode;
  const numbers = Object.entries(values).map(([channel, value]) => {
    const text = typeof value === 'number' ? round(value) : value.map(round).join(' ');
    return `${channelInWords(channel)} ${mapped.includes(channel as ChannelName) ? `${text} x map` : text}`;
  });
  if (height) numbers.push(`height ${round(height.amount)} ${height.unit}, ${height.mid} moves nothing`);
  const rows = maps.map(({ file, colour, tag, depth, channels, palette }) => {
    const words = tag && tag !== colour ? `${colour} ("${tag}")` : colour;
    const lines = channels.map(
      ({ component, channel, inverted }) =>
        `${component}: ${escapeText(channelInWords(channel))}${inverted ? ', inverted' : ''}`,
    );
    return `<tr><td><code>${escapeText(file)}</code></td><td>${lines.join('<br>')}</td><td>${escapeText(words)}${palette ? '<br>unfiltered, uncompressed' : ''}</td><td>${escapeText(depth)}</td></tr>`;
  });
  const copiesText = copies.length > 0 ? ` One for each part: ${escapeText(listed(copies))}.` : '';
  return `<h3>${number === undefined ? '' : `${number}. `}${escapeText(name)}</h3>
<p>${escapeText(shading)}, ${escapeText(see)}, ${doubleSided ? 'two sides' : 'one side'}.${copiesText} ${escapeText(numbers.join('; '))}</p>
${rows.length > 0 ? `<table>\n<tr><th>Map</th><th>Components</th><th>Read as</th><th>Depth</th></tr>\n${rows.join('\n')}\n</table>` : ''}`;
}

const LISTED = 6;

function listed(names: readonly string[]): string {
  return names.length > LISTED
    ? `${names.slice(0, LISTED).join(', ')} and ${names.length - LISTED} more`
    : names.join(', ');
}

const TAKEOFF_ROWS = 400;

function takeoffSection(rows: readonly TakeoffRow[]): string {
  if (rows.length === 0) return '';
  const line = ({ part, material, area, volume }: TakeoffRow) =>
    `<tr><td>${escapeText(part)}</td><td>${escapeText(material)}</td><td>${round(area)}</td><td>${volume === null ? 'open' : volume.toPrecision(4)}</td></tr>`;
  const more =
    rows.length > TAKEOFF_ROWS ? `<p>${rows.length - TAKEOFF_ROWS} more rows are in takeoff.csv.</p>` : '';
  return `<h2>Areas and volumes</h2>
<table>\n<tr><th>Part</th><th>Material</th><th>Area, m²</th><th>Volume, m³</th></tr>\n${rows.slice(0, TAKEOFF_ROWS).map(line).join('\n')}\n</table>
${more}`;
}

function round(value: number): string {
  return String(Math.round(value * 10_000) / 10_000);
}

function escapeText(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');
}

function toBase64(bytes: Uint8Array): string {
  return Buffer.from(bytes).toString('base64');
}
