'use client';

import { usesOfImages } from '@kinkajou/core/asset/asset';
import { pictureUrl } from '@/ui/api';
import { channelTitle, fileName, spaceLabel } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import { StepSheet } from './StepSheet.tsx';

/** In which colour space each use of an image is read. */
export function ColourStep() {
  const { view } = useBench();
  const uses = usesOfImages(view.state);
  const rows = view.state.images.flatMap((image) => (uses.get(image.key) ?? []).map((slot) => ({ image, slot })));
  return (
    <StepSheet title="Colour" note="how the numbers of each image are read; change a tag in the slot's details">
      <table className="sheet-table">
        <thead>
          <tr>
            <th />
            <th>Image</th>
            <th>Slot</th>
            <th>Depth</th>
            <th>Tag</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ image, slot }) => {
            const file = view.images.find((other) => other.path === image.resolved);
            const map = view.state.materials.find((material) => material.key === slot.material)?.channels[slot.channel]?.map;
            return (
              <tr key={`${image.key}/${slot.material}/${slot.channel}`}>
                <td>
                  {file?.info ? (
                    <span
                      className="block h-7 w-10 rounded border border-black/15 bg-cover bg-center"
                      style={{ backgroundImage: `url(${pictureUrl(file.sha256, 96)})` }}
                    />
                  ) : (
                    <span className="missing-stripes block h-7 w-10 rounded border border-error" />
                  )}
                </td>
                <td className="w-full max-w-0 truncate font-mono text-[11.5px]" title={image.resolved ?? image.written}>
                  {fileName(image.resolved ?? image.written)}
                </td>
                <td className="whitespace-nowrap">
                  {slot.material}, {channelTitle(slot.channel)}
                </td>
                <td className="whitespace-nowrap">{file?.info ? `${file.info.bitDepth} bit${file.info.floating ? ' float' : ''}` : 'missing'}</td>
                <td className="font-semibold whitespace-nowrap text-secondary" title={map?.space}>
                  {map ? spaceLabel(map.space) : ''}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {rows.length === 0 && <p className="p-8 text-center text-[var(--soft)]">No slot reads an image.</p>}
    </StepSheet>
  );
}
