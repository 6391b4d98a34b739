import type { AssetImage } from '@kinkajou/core/asset/asset';
import { holesIn } from '@kinkajou/core/links/tiles';
import { pictureUrl } from '@/ui/api';
import type { BenchView } from '../bench/useBench.ts';

/** Tiles of one map as they lie in the UV plane, with those that are missing. */
export function TileGrid({
  image,
  view,
  needed,
}: {
  image: AssetImage;
  view: BenchView;
  needed: readonly number[];
}) {
  const tiles = image.tiles ?? [];
  const files = new Map(view.images.map((file) => [file.path, file]));
  const there = new Map(tiles.map((tile) => [tile.number, files.get(tile.path)]));
  const required = [...new Set([...there.keys(), ...holesIn(tiles), ...needed])].sort((a, b) => a - b);
  return (
    <ul className="flex flex-wrap gap-1" aria-label="Tiles">
      {required.map((number) => {
        const file = there.get(number);
        const missing = !there.has(number);
        return (
          <li
            key={number}
            title={file?.path ?? `tile ${number} is not there`}
            className={`relative h-11 w-12 rounded border bg-cover bg-center ${missing ? 'missing-stripes border-error' : 'border-black/15'}`}
            style={file ? { backgroundImage: `url(${pictureUrl(file.sha256, 96)})` } : undefined}
          >
            <span className="absolute right-0.5 bottom-0.5 rounded-[3px] bg-[#fffdf6ea] px-[3px] font-mono text-[10px] font-semibold text-[#1d2b26]">
              {number}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
