import { pathOf } from './filePlace.ts';
import { type FileSource, missingFile } from './fileSource.ts';

/** One source with further ones beside it, whose files appear under `search/1/`, `search/2/` and so on. */
export function combineSources(base: FileSource, further: readonly FileSource[]): FileSource {
  if (further.length === 0) return base;
  const places = new Map<string, { source: FileSource; path: string }>();
  const files = [...base.files];
  for (const file of base.files) places.set(file.path, { source: base, path: file.path });
  further.forEach((source, i) => {
    for (const file of source.files) {
      const path = pathOf({ in: 'searchFolder', folder: i + 1, path: file.path });
      if (places.has(path)) continue;
      files.push({ ...file, path });
      places.set(path, { source, path: file.path });
    }
  });
  return {
    name: base.name,
    files,
    notices: [...base.notices, ...further.flatMap((source) => source.notices)],
    async read(path) {
      const place = places.get(path);
      if (!place) throw missingFile(base.name, path);
      return place.source.read(place.path);
    },
    async close() {
      await Promise.all([base, ...further].map((source) => source.close()));
    },
  };
}
