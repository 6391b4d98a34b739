import { metres } from '@/ui/format';
import { FIGURE_HEAD, FIGURE_HEIGHT, FIGURE_PATH } from '../viewport/figure.ts';

const BASE = 168;

/** Width and height in metres. */
export interface Size {
  width: number;
  height: number;
  depth: number;
}

/** The asset's outline as boxes beside a person of 1.75 m, to scale: as stated (dashed) and as taken. */
export function SizeFigure({ before, after }: { before: Size | null; after: Size | null }) {
  if (!before) return <p className="text-[12px] text-[var(--soft)]">There is no geometry to measure.</p>;
  const shown = after ?? before;
  const changed =
    after !== null &&
    [after.width - before.width, after.height - before.height].some(
      (off) => Math.abs(off) > 1e-6 * before.height,
    );
  const across = (size: Size) => Math.max(size.width, size.depth);
  const tallest = Math.max(shown.height, FIGURE_HEIGHT);
  const scale = 150 / Math.max(tallest, (across(shown) + 0.8) * 0.75);
  const person = FIGURE_HEIGHT * scale;
  const box = (size: Size) => ({
    x: 92,
    width: Math.max(1.5, across(size) * scale),
    height: Math.max(1.5, size.height * scale),
    y: BASE - Math.max(1.5, size.height * scale),
  });
  return (
    <figure className="self-start overflow-hidden rounded-md border border-[var(--line)] bg-base-100 p-1">
      <svg
        viewBox="0 0 220 204"
        role="img"
        aria-label={`${metres(across(shown))} m wide and ${metres(shown.height)} m high, beside a person of 1.75 m`}
      >
        <line x1="8" x2="212" y1={BASE} y2={BASE} stroke="var(--line)" />
        <g fill="var(--soft)" opacity="0.75" transform={`translate(46 ${BASE}) scale(${person / 175})`}>
          <circle cx="0" cy={FIGURE_HEAD.y} r={FIGURE_HEAD.radius} />
          <path d={FIGURE_PATH} />
        </g>
        <rect {...box(shown)} fill="var(--honey-wash)" stroke="var(--color-accent)" strokeWidth="1.5" />
        {changed && <rect {...box(before)} fill="none" stroke="var(--soft)" strokeDasharray="4 3" />}
        <text x="46" y="183" textAnchor="middle" fontSize="10.5" fill="var(--soft)">
          1.75 m
        </text>
        <text x="92" y="183" fontSize="10.5" fill="var(--color-base-content)">
          {metres(across(shown))} × {metres(shown.height)} m
        </text>
        {changed && (
          <text x="92" y="197" fontSize="10.5" fill="var(--soft)">
            stated: {metres(across(before))} × {metres(before.height)} m
          </text>
        )}
      </svg>
    </figure>
  );
}
