'use client';

import type { Difference, DifferenceCode } from '@kinkajou/core/compare/difference';
import { useEffect } from 'react';
import type { SideEntry } from '@/server/services/compare';
import { when } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useCompareFocus, useWhole } from './useCompare.ts';

/** Parts, shape, motion, use of images, unit and axes: what two sides differ in besides the numbers of their channels. */
export function Whole({ a, b }: { a: SideEntry; b: SideEntry }) {
  const { data, error, isFetching } = useWhole(a.side, b.side);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another pair has other parts
  useEffect(() => useCompareFocus.setState({ part: null }), [a.side, b.side]);
  if (error) return <p className="text-[12.3px] text-error">{error.message}</p>;
  if (!data) return isFetching ? <p className="text-[12.3px] text-[var(--soft)]">comparing parts and shapes ...</p> : null;
  const open = data.differences.filter(({ exempt }) => exempt === null);
  const told = data.differences.filter(({ exempt }) => exempt !== null);
  return (
    <section aria-label="The whole" className="grid gap-1.5">
      <p className="flex items-center gap-1.5 text-[12.3px]">
        <Mark kind={data.verdict === 'same' ? 'fine' : 'broken'} />
        <b>{data.verdict === 'same' ? 'The same as a whole' : `Different in ${open.length === 1 ? 'one place' : `${open.length} places`}`}</b>
        <span className="text-[var(--soft)]">
          {data.proven === null ? 'parts, shape, motion, use of images' : `as proven ${data.proven === '' ? 'when it was made' : when(data.proven)}`}
        </span>
      </p>
      <DifferenceTable differences={open} />
      {told.length > 0 && (
        <details className="text-[12.3px]">
          <summary className="cursor-pointer">{told.length} told beforehand as losses</summary>
          <DifferenceTable differences={told} />
        </details>
      )}
    </section>
  );
}

/** One row a difference; a row with a part tints it in the view. */
export function DifferenceTable({ differences }: { differences: readonly Difference[] }) {
  const part = useCompareFocus((focus) => focus.part);
  if (differences.length === 0) return null;
  const choose = (difference: Difference) => useCompareFocus.setState({ part: part === difference.part ? null : difference.part });
  return (
    <table className="sheet-table rounded border border-[var(--line)]" aria-label="Differences of the whole">
      <tbody>
        {differences.map((one, i) => (
          <tr
            key={`${i} ${one.code} ${one.message}`}
            className={one.part === null ? '' : 'cursor-pointer'}
            aria-selected={one.part !== null && one.part === part}
            tabIndex={one.part === null ? -1 : 0}
            onClick={() => one.part !== null && choose(one)}
            onKeyDown={(event) => {
              if (one.part === null || (event.key !== 'Enter' && event.key !== ' ')) return;
              event.preventDefault();
              choose(one);
            }}
          >
            <td>
              <Mark kind={one.exempt === null ? 'broken' : 'empty'} />
            </td>
            <td className="whitespace-nowrap">{CODE_TITLES[one.code]}</td>
            <td className="text-[12px] [overflow-wrap:anywhere]">{one.message}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const CODE_TITLES: Record<DifferenceCode, string> = {
  'channel.differs': 'Channel',
  'channel.missing': 'Channel gone',
  'use.transform': 'Placing of an image',
  'use.uvSet': 'UV set of an image',
  'use.wrap': 'Edges of an image',
  'alpha.mode': 'Transparency',
  'alpha.cutoff': 'Cut-off',
  sides: 'Sides',
  'sheet.contradicts': 'Sheet against model',
  'part.missing': 'Part gone',
  'part.added': 'Part added',
  'part.moved': 'Part moved',
  'shape.points': 'Points',
  'shape.faces': 'Faces',
  'shape.winding': 'Winding',
  'shape.normals': 'Normals',
  'shape.uv': 'UVs',
  'shape.colours': 'Colours',
  'shape.materials': 'Materials of faces',
  'model.unit': 'Unit',
  'model.axes': 'Axes',
  'rig.skin': 'Skin',
  'rig.morph': 'Morph target',
  'rig.clip': 'Clip',
  'file.missing': 'File gone',
  'file.unreadable': 'File not readable',
};
