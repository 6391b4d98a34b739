import { readFile } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import { convertPixels, type PixelDepth } from '@kinkajou/core/colour/convert';
import { spaceOfWord } from '@kinkajou/core/colour/dialects';
import { isColourSpace } from '@kinkajou/core/colour/spaces';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { decodeImage } from '@kinkajou/core/images/decode';
import { ENCODABLE, encodeImage } from '@kinkajou/core/images/encode';
import { formatOfPath } from '@kinkajou/core/images/format';
import { probeImage } from '@kinkajou/core/images/probe';
import { type DetectedMap, detectMaps, type ImageToDetect } from '@kinkajou/core/maps/detectMaps';
import { percent } from '@kinkajou/core/maps/judgePixels';
import { lookAtPixels } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import type { ColourSpace } from '@kinkajou/core/scene/material';
import { EXIT, type Output } from './output.ts';
import { readWords } from './words.ts';
import { writeBeside } from './writeOut.ts';

/**
 * Detects images together, so that each is seen in the light of the others. One that cannot be read is told
 * about.
 */
export async function runDetect(
  paths: readonly string[],
  options: { words?: string; json?: boolean },
  output: Output,
): Promise<number> {
  const house = await readWords(options.words);
  const limits = limitsFromEnvironment();
  const images: ImageToDetect[] = [];
  let unreadable = 0;
  for (const path of paths) {
    try {
      const bytes = await readBytes(path);
      images.push({
        path,
        info: await probeImage(bytes, path, limits),
        facts: lookAtPixels(await decodeImage(bytes, path, { limits })),
      });
    } catch (error) {
      if (!(error instanceof KinkajouError) || paths.length === 1) throw error;
      unreadable += 1;
      output.message(error.toText());
    }
  }
  const maps = detectMaps(images, { house }).map(mapReport);
  if (options.json) output.json({ maps });
  else for (const map of maps) printMap(map, output);
  return unreadable > 0 ? EXIT.errorsRemain : EXIT.done;
}

/** One image in the JSON of `maps detect`. */
function mapReport({ path, set, readings, packed, space, confidence, evidence }: DetectedMap) {
  const normal = readings.find((reading) => reading.channel === 'normal');
  return {
    file: path,
    set,
    channel: packed ? null : (readings[0]?.channel ?? null),
    components: packed
      ? Object.fromEntries(readings.map(({ component, channel }) => [component, channel]))
      : null,
    space,
    normalY: normal?.normalY ?? null,
    confidence,
    evidence,
  };
}

function printMap(map: ReturnType<typeof mapReport>, output: Output): void {
  const what = map.components
    ? Object.entries(map.components)
        .map(([component, channel]) => `${component} ${channel}`)
        .join(', ')
    : (map.channel ?? 'unknown');
  output.text(
    `${map.file}: ${what}, ${map.space}${map.normalY ? `, ${map.normalY}` : ''} (${map.confidence.toFixed(2)})`,
  );
  for (const line of map.evidence) output.text(`  ${line}`);
}

interface MapConvertOptions {
  from: string;
  to: string;
  exponent: string;
  depth?: string;
  replace?: boolean;
  json?: boolean;
}

/** Converts one image between colour spaces and says what did not fit. */
export async function runMapConvert(
  input: string,
  out: string,
  options: MapConvertOptions,
  output: Output,
): Promise<number> {
  const [from, to] = [colourSpace(options.from, '--from'), colourSpace(options.to, '--to')];
  const exponent = Number(options.exponent);
  if (!(exponent >= 0.1 && exponent <= 10))
    throw new KinkajouError('call.exponent', `--exponent is "${options.exponent}"; it takes 0.1 to 10`);
  const format = ENCODABLE.find((existing) => existing === formatOfPath(out));
  if (!format)
    throw new KinkajouError(
      'call.type',
      `"${basename(out)}" has no type that can be written`,
      {},
      `Use one of ${ENCODABLE.join(', ')}.`,
    );
  const depth = depthOf(options.depth, format);
  const source = await decodeImage(await readBytes(input), input, { limits: limitsFromEnvironment() });
  const { buffer, report } = convertPixels(source, from, to, {
    exponent,
    ...(depth === undefined ? {} : { depth }),
  });
  const bytes = await encodeImage(buffer, format, { depth: options.depth === 'half' ? 16 : 32 });
  await writeBeside({
    folder: dirname(out),
    files: new Map([[basename(out), bytes]]),
    from: input,
    replace: options.replace === true,
  });
  const result = { file: out, from, to, exponent, width: buffer.width, height: buffer.height, ...report };
  if (options.json) output.json(result);
  else
    output.text(
      `${out}: ${from} to ${to}; ${percent(report.outOfGamut)} out of gamut, ${percent(report.clipped)} clipped`,
    );
  return EXIT.done;
}

function depthOf(word: string | undefined, format: string): PixelDepth | undefined {
  if (word === undefined) return format === 'exr' || format === 'hdr' ? 'float' : undefined;
  if (word === '8') return 8;
  if (word === '16') return 16;
  if (word === 'half' || word === 'float') return 'float';
  throw new KinkajouError('call.depth', `--depth is "${word}"; it takes 8, 16, half or float`);
}

function colourSpace(word: string, option: string): ColourSpace {
  const space = spaceOfWord(word);
  if (space && isColourSpace(space)) return space;
  throw new KinkajouError(
    'call.space',
    `${option} is "${word}", which names no colour space`,
    {},
    'Use a name such as srgb_rec709_scene, lin_ap1_scene or ACEScg.',
  );
}

async function readBytes(path: string): Promise<Uint8Array> {
  try {
    return await readFile(path);
  } catch (error) {
    throw toKinkajouError(
      new KinkajouError(
        'file.missing',
        `it cannot be read (${(error as NodeJS.ErrnoException).code})`,
        { file: path },
        'Check the spelling.',
      ),
    );
  }
}
