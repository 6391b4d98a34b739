import type { PreviewFile } from '@kinkajou/core/handoff/previewHandoff';
import { groupedLines } from '@kinkajou/core/handoff/words';
import type { PlanView } from '@/server/services/handoffs';
import { Breakable } from '@/ui/Breakable';
import { bytes, plural } from '@/ui/format';
import { Mark } from '@/ui/Mark';

/** Every file that would be written, what it is made of, and what will be missing. */
export function PlanSheet({ plan }: { plan: PlanView }) {
  const total = plan.files.reduce(
    (sum, file) => sum + (file.path.endsWith('(inside)') ? 0 : (file.bytes ?? 0)),
    0,
  );
  return (
    <section aria-label="Plan">
      <p className="mb-2 text-[var(--soft)]">{plan.destination.summary}.</p>
      {plan.errors > 0 && (
        <p className="mb-2 flex items-center gap-2">
          <Mark kind="broken" /> {plan.errors} broken {plan.errors === 1 ? 'finding is' : 'findings are'}{' '}
          open; the package can be made all the same, and the receipt will say so.
        </p>
      )}
      <Lines title="Left behind" kind="doubtful" lines={groupedLines(plan.losses)} />
      <Lines title="Done on the way" kind="empty" lines={plan.changes} />
      <FileTable files={plan.files} />
      <p className="mt-1.5 text-[11.5px] text-[var(--soft)]">
        {plural(plan.files.length, 'file')}, about {bytes(total)}; sizes with a tilde are estimates.
      </p>
    </section>
  );
}

function Lines({
  title,
  kind,
  lines,
}: {
  title: string;
  kind: 'doubtful' | 'empty';
  lines: readonly string[];
}) {
  if (lines.length === 0) return null;
  return (
    <ul className="mb-2 grid gap-0.5" aria-label={title}>
      {lines.map((line) => (
        <li key={line} className="flex items-baseline gap-2">
          <Mark kind={kind} /> <span className="min-w-0 break-words">{line}</span>
        </li>
      ))}
    </ul>
  );
}

/** Files that a package will hold, with what each is made from. */
export function FileTable({ files }: { files: readonly PreviewFile[] }) {
  return (
    <table className="table table-xs table-pin-rows rounded border border-[var(--line)]" aria-label="Files">
      <thead>
        <tr>
          <th>File that will be written</th>
          <th>Size</th>
          <th>Made from</th>
        </tr>
      </thead>
      <tbody>
        {files.map((file) => (
          <tr key={file.path}>
            <td className="min-w-28 align-top font-mono text-[11.5px] [overflow-wrap:anywhere]">
              <Breakable text={file.path} />
            </td>
            <td className="align-top whitespace-nowrap">
              {file.bytes === null ? '-' : `${file.exact ? '' : '~'}${bytes(file.bytes)}`}
              {file.image && (
                <span className="block text-[11px] text-[var(--soft)]">
                  {file.image.width} × {file.image.height}, {file.image.depth}
                </span>
              )}
            </td>
            <td className="text-[12px] [overflow-wrap:anywhere]">
              <MadeFrom file={file} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const KINDS = { model: 'the model', map: '', sheet: 'for the receiver' } as const;

function MadeFrom({ file: { kind, image } }: { file: PreviewFile }) {
  if (!image) return <span className="text-[var(--soft)]">{KINDS[kind]}</span>;
  if (image.copied)
    return (
      <span title={image.components[0].text}>
        copied: <Breakable text={image.components[0].file ?? ''} />
      </span>
    );
  return grouped(image.components).map(({ letters, text, full }) => (
    <span key={letters} className="block [overflow-wrap:anywhere]" title={full}>
      <b className="font-mono text-[11px]">{letters}</b> <Breakable text={text} />
    </span>
  ));
}

/**
 * Components that are told alike are told once: `rgb normal from hull_normal.png`. Where files lie is told
 * when one points at them.
 */
function grouped(
  components: NonNullable<PreviewFile['image']>['components'],
): { letters: string; text: string; full: string }[] {
  const reported: { letters: string; text: string; full: string }[] = [];
  for (const { component, text: full, brief: text } of components) {
    const last = reported[reported.length - 1];
    if (last?.text === text) last.letters += component;
    else reported.push({ letters: component, text, full });
  }
  return reported;
}
