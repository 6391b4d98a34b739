import { colourWords } from './words.ts';
import { feedsOf, pathInPackage } from './destinationDocument.ts';
import type { HandoffPlan, PlannedMaterial } from './plan.ts';
import { componentInWords } from './receipt.ts';

/** What the receiver must know of one material, since formats cannot say all of it. */
export interface SheetMaterial {
  name: string;
  shading: string;
  alpha: { mode: string; cutoff: number };
  doubleSided: boolean;
  values: Record<string, number | readonly number[]>;
  maps: { file: string; colour: string; depth: string; channels: Record<string, string>; from: Record<string, string> }[];
}

/** The sheet for the receiver as plain JSON, and as a page to read and print. */
export interface Sheet {
  handoff: 1;
  asset: string;
  destination: { id: string; title: string; summary: string };
  model: string;
  upAxis: string;
  metresPerUnit: number;
  normalY: string;
  notes: string[];
  losses: string[];
  prepared: string[];
  /** What the format has no words for; the tables of the materials tell it. */
  unsaid: string[];
  materials: SheetMaterial[];
}

export function createSheet(plan: HandoffPlan, asset: string, model: string): Sheet {
  const { id, title, summary, upAxis, metresPerUnit, normalY, notes } = plan.destination;
  return {
    handoff: 1,
    asset,
    destination: { id, title, summary },
    model,
    upAxis,
    metresPerUnit,
    normalY,
    notes,
    losses: plan.losses,
    prepared: plan.prepared,
    unsaid: plan.unsaid,
    materials: plan.materials.map((material) => sheetMaterial(material, plan)),
  };
}

function sheetMaterial({ name, inputs, source, shading, images }: PlannedMaterial, { destination, images: all }: HandoffPlan): SheetMaterial {
  const files = [...new Set(Object.values(images).flatMap((image) => (image ? [image.pattern] : [])))];
  return {
    name,
    shading: destination.writeAs ?? destination.workflow,
    alpha: { mode: source.alphaMode, cutoff: source.alphaCutoff },
    doubleSided: source.doubleSided,
    values: {
      ...Object.fromEntries(
        Object.entries(inputs).flatMap(([channel, input]) =>
          input && channel !== 'normal' && !(channel === 'glossiness' && inputs.roughness) ? [[channel, input.value]] : [],
        ),
      ),
      ...(shading.transmission.value > 0 ? { transmission: shading.transmission.value, ior: shading.ior } : {}),
    },
    maps: files.flatMap((pattern) => {
      const image = all.find((one) => one.pattern === pattern);
      if (!image) return [];
      const depth = typeof image.map.depth === 'number' ? `${image.map.depth} bits` : image.map.depth;
      return [
        {
          file: pathInPackage(destination, pattern),
          colour: colourWords(image.map.space),
          depth,
          channels: Object.fromEntries(feedsOf(image).map(({ channel, component }) => [component, channel])),
          from: Object.fromEntries(image.components.map((component, i) => ['rgba'[i], componentInWords(component)])),
        },
      ];
    }),
  };
}

/** The sheet as one page without scripts; `picture` is a PNG of the asset, or null. */
export function sheetPage(sheet: Sheet, picture: Uint8Array | null): string {
  const { destination } = sheet;
  const list = (title: string, lines: readonly string[]) =>
    lines.length === 0 ? '' : `<h2>${title}</h2>\n<ul>\n${lines.map((line) => `<li>${escapeText(line)}</li>`).join('\n')}\n</ul>\n`;
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
<tr><th>Model</th><td><code>${escapeText(sheet.model)}</code></td></tr>
<tr><th>Up axis, unit</th><td>${sheet.upAxis} up, ${sheet.metresPerUnit} m</td></tr>
<tr><th>Normal maps</th><td>green points ${sheet.normalY === 'Y+' ? 'up (Y+)' : 'down (Y-)'}</td></tr>
</table>
${list('To do by hand', sheet.notes)}${list('Told here alone', sheet.unsaid)}${list('Left behind', sheet.losses)}${list('Converted on the way', sheet.prepared)}<h2>Materials</h2>
${sheet.materials.map(materialSection).join('\n')}
</body>
</html>
`;
}

function materialSection({ name, shading, alpha, doubleSided, values, maps }: SheetMaterial): string {
  const see = alpha.mode === 'mask' ? `mask, cut-off ${round(alpha.cutoff)}` : alpha.mode;
  const numbers = Object.entries(values)
    .map(([channel, value]) => `${channel} ${typeof value === 'number' ? round(value) : value.map(round).join(' ')}`)
    .join('; ');
  const rows = maps.map(
    ({ file, colour, depth, channels }) =>
      `<tr><td><code>${escapeText(file)}</code></td><td>${Object.entries(channels)
        .map(([component, channel]) => `${component}: ${escapeText(channel)}`)
        .join('<br>')}</td><td>${escapeText(colour)}</td><td>${escapeText(depth)}</td></tr>`,
  );
  return `<h3>${escapeText(name)}</h3>
<p>${escapeText(shading)}, ${escapeText(see)}, ${doubleSided ? 'two sides' : 'one side'}. ${escapeText(numbers)}</p>
${rows.length > 0 ? `<table>\n<tr><th>Map</th><th>Components</th><th>Read as</th><th>Depth</th></tr>\n${rows.join('\n')}\n</table>` : ''}`;
}

function round(value: number): string {
  return String(Math.round(value * 10_000) / 10_000);
}

function escapeText(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}

function toBase64(bytes: Uint8Array): string {
  return Buffer.from(bytes).toString('base64');
}
