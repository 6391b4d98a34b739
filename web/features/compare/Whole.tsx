'use client';

import type { Difference, DifferenceCode } from '@kinkajou/core/compare/difference';
import { useEffect } from 'react';
import type { SideEntry } from '@/server/services/compare';
import { when } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useCompareFocus, useWhole } from './useCompare.ts';

/**
 * Parts, shape, motion, use of images, unit and axes: what two sides differ in besides the numbers of their
 * channels.
 */
export function Whole({ a, b }: { a: SideEntry; b: SideEntry }) {
  const { data, error, isFetching } = useWhole(a.side, b.side);
  const part = useCompareFocus((focus) => focus.part);
  const choose = (expected: string | null) => useCompareFocus.setState({ part: expected });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another pair has other parts
  useEffect(() => useCompareFocus.setState({ part: null }), [a.side, b.side]);
  if (error) return <p className="text-[12.3px] text-error">{error.message}</p>;
  if (!data)
    return isFetching ? (
      <p className="text-[12.3px] text-[var(--soft)]">comparing parts and shapes ...</p>
    ) : null;
  if (data.unproven) return <p className="text-[12.3px] text-[var(--soft)]">{UNPROVEN[data.unproven]}</p>;
  const open = data.differences.filter(({ exempt }) => exempt === null);
  const reported = data.differences.filter(({ exempt }) => exempt !== null);
  return (
    <section aria-label="The whole" className="grid gap-1.5">
      <p className="flex items-center gap-1.5 text-[12.3px]">
        <Mark kind={data.verdict === 'same' ? 'fine' : 'broken'} />
        <b>
          {data.verdict === 'same'
            ? 'The same as a whole'
            : `Different in ${open.length === 1 ? 'one place' : `${open.length} places`}`}
        </b>
        <span className="text-[var(--soft)]">
          {data.proven === null ? 'parts, shape, motion, use of images' : `as proven ${when(data.proven)}`}
        </span>
      </p>
      <DifferenceTable differences={open} part={part} choose={choose} />
      {reported.length > 0 && (
        <details className="text-[12.3px]">
          <summary className="cursor-pointer">{reported.length} told beforehand as losses</summary>
          <DifferenceTable differences={reported} part={part} choose={choose} />
        </details>
      )}
    </section>
  );
}

const UNPROVEN = {
  changed:
    'The asset was changed after this package was made: hand it off again to have it proven as a whole.',
  edited:
    'The package was made of the source with its edits; take that as the other side to see what was proven.',
};

/** One row a difference. Where `choose` is given, a row with a part tints it in the view. */
export function DifferenceTable({
  differences,
  part = null,
  choose,
}: {
  differences: readonly Difference[];
  part?: string | null;
  choose?: (part: string | null) => void;
}) {
  if (differences.length === 0) return null;
  return (
    <table
      className="table table-xs table-pin-rows rounded border border-[var(--line)]"
      aria-label="Differences of the whole"
    >
      <tbody>
        {differences.map((one, i) => {
          const pick =
            choose && one.part !== null ? () => choose(one.part === part ? null : one.part) : undefined;
          return (
            <tr
              key={`${i} ${one.code} ${one.message}`}
              className={pick && 'cursor-pointer'}
              aria-selected={pick && one.part === part}
              tabIndex={pick && 0}
              onClick={pick}
              onKeyDown={(event) => {
                if (!pick || (event.key !== 'Enter' && event.key !== ' ')) return;
                event.preventDefault();
                pick();
              }}
            >
              <td>
                <Mark kind={one.exempt === null ? 'broken' : 'empty'} />
              </td>
              <td className="whitespace-nowrap">{CODE_TITLES[one.code]}</td>
              <td className="text-[12px] [overflow-wrap:anywhere]">{one.message}</td>
            </tr>
          );
        })}
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
  'use.filter': 'Filtering of an image',
  'alpha.mode': 'Transparency',
  'alpha.cutoff': 'Cut-off',
  sides: 'Sides',
  colours: 'Colours of points',
  'sheet.contradicts': 'Sheet against model',
  'part.missing': 'Part gone',
  'part.added': 'Part added',
  'part.moved': 'Part moved',
  'shape.points': 'Points',
  'shape.faces': 'Faces',
  'shape.winding': 'Winding',
  'shape.normals': 'Normals',
  'shape.tangents': 'Tangents',
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
