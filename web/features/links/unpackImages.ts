import { isImagePath } from '@kinkajou/core/images/format';
import { unzip } from 'fflate';
import { fileName } from '@/ui/format';

const ZIP = /\.zip$/i;

/**
 * The images among files; zips are unpacked in the page, and what in them is no image is counted. Throws for
 * a zip that cannot be read.
 */
export async function unpackImages(files: readonly File[]): Promise<{ images: File[]; others: number }> {
  const images: File[] = [];
  let others = 0;
  for (const file of files) {
    if (!ZIP.test(file.name)) {
      images.push(file);
      continue;
    }
    for (const [path, bytes] of Object.entries(await entriesOf(file))) {
      if (path.endsWith('/')) continue;
      if (isImagePath(path) && !isLitter(path))
        images.push(new File([new Uint8Array(bytes)], fileName(path)));
      else others += 1;
    }
  }
  return { images, others };
}

async function entriesOf(file: File): Promise<Record<string, Uint8Array>> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  return new Promise((resolve, reject) => {
    unzip(bytes, (error, entries) =>
      error
        ? reject(new Error(`${file.name} cannot be unpacked. Pack it again, or add its images one by one.`))
        : resolve(entries),
    );
  });
}

/** What operating systems leave beside files. */
function isLitter(path: string): boolean {
  return /(^|\/)(__MACOSX\/|\._)/.test(path);
}
