import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { groupedLines } from '@kinkajou/core/handoff/words';
import { Bar } from '@/ui/Bar';
import { bytes } from '@/ui/format';
import { Mark, type MarkKind } from '@/ui/Mark';
import { DifferenceTable } from '../compare/Whole.tsx';

/** A receipt as a person reads it: verdict, checks with numbers, files with their hashes. */
export function ReceiptSheet({ receipt }: { receipt: Receipt }) {
  const { readBack } = receipt;
  // Both verdicts stand above, with every difference.
  const checks = readBack.checks.filter(({ verdict }) => !verdict);
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100" aria-label="Receipt">
      <Bar>
        <Mark kind={verdictMark(receipt)} size={12} />
        <h3 className="font-semibold">Receipt: {receipt.verdict}</h3>
        <span className="flex-1" />
        {readBack.validator && (
          <span className="text-[11.5px] text-[var(--soft)]">
            gltf-validator {readBack.validator.version}
          </span>
        )}
      </Bar>
      <Proof receipt={receipt} />
      <table className="table table-xs table-pin-rows">
        <tbody>
          {checks.map((check) => (
            <tr key={check.check}>
              <td>
                <Mark kind={check.ok ? 'fine' : 'broken'} />
              </td>
              <td className="font-semibold">{check.check}</td>
              <td className="text-[12px] [overflow-wrap:anywhere]">{check.found}</td>
            </tr>
          ))}
          {(readBack.validator?.messages ?? []).map((message) => (
            <tr key={`${message.code}${message.pointer}`}>
              <td>
                <Mark kind={messageMark(message.severity)} />
              </td>
              <td className="font-mono text-[11px] [overflow-wrap:anywhere]">{message.code}</td>
              <td className="text-[12px]">
                {message.message} <span className="font-mono text-[11px]">{message.pointer}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Samples channels={readBack.channels ?? []} />
      <Remarks title="Left behind" lines={groupedLines(receipt.losses)} />
      <Remarks title="Told in the sheet for the receiver" lines={receipt.unsaid ?? []} />
      <Remarks title="Converted on the way" lines={receipt.prepared ?? []} />
      <Remarks
        title="Open when it was made"
        lines={receipt.openFindings.map((finding) => `${finding.code}: ${finding.message}`)}
      />
      <Remarks
        title="Edits"
        lines={receipt.edits.map(
          (edit) => `${edit.text} (${edit.from}${edit.detail ? `: ${edit.detail}` : ''})`,
        )}
      />
      <div className="px-3 py-2">
        <h4 className="mb-1 text-[12px] font-semibold">Files</h4>
        <ul className="grid gap-0.5">
          {receipt.outputs.map((file) => (
            <li key={file.path} className="flex gap-3 font-mono text-[11px]">
              <span className="min-w-0 flex-1 truncate">{file.path}</span>
              <span>{bytes(file.bytes)}</span>
              <span className="text-[var(--soft)]" title={file.sha256}>
                {file.sha256.slice(0, 12)}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}

function verdictMark({ verdict }: Receipt): MarkKind {
  if (verdict === 'clean') return 'fine';
  return verdict === 'failed' ? 'broken' : 'doubtful';
}

function messageMark(severity: number): MarkKind {
  if (severity === 0) return 'broken';
  return severity === 1 ? 'doubtful' : 'empty';
}

/** Both verdicts, the words that the sheet adds, and every difference; receipts of old have none of it. */
function Proof({ receipt: { verdicts, sheetWords = [], differences = [] } }: { receipt: Receipt }) {
  if (!verdicts) return null;
  const open = differences.filter(({ exempt }) => exempt === null);
  const reported = differences.filter(({ exempt }) => exempt !== null);
  return (
    <div className="grid gap-1.5 border-b border-[var(--line-soft)] px-3 py-2 text-[12px]">
      {(
        [
          ['As the model stands', verdicts.model],
          ['With the words of the sheet', verdicts.sheet],
        ] as const
      ).map(([title, verdict]) => (
        <p key={title} className="flex items-center gap-1.5">
          <Mark kind={verdict === 'same' ? 'fine' : 'broken'} />
          <b>{title}:</b> {verdict === 'same' ? 'as in the source' : 'different from the source'}
        </p>
      ))}
      <DifferenceTable differences={open} />
      {reported.length > 0 && (
        <details>
          <summary className="cursor-pointer">{reported.length} differences, each told as a loss</summary>
          <DifferenceTable differences={reported} />
        </details>
      )}
      {sheetWords.length > 0 && (
        <details>
          <summary className="cursor-pointer">
            {sheetWords.length} words of the sheet, which the format has none for
          </summary>
          <ul className="list-disc pl-4">
            {sheetWords.map(({ material, channel, word, value }) => (
              <li key={`${material} ${channel} ${word}`} className="[overflow-wrap:anywhere]">
                {material}
                {channel ? `, ${channel}` : ''}: {word} {value}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** Each channel as the source has it and as it was read, in numbers. */
function Samples({ channels }: { channels: Receipt['readBack']['channels'] }) {
  if (channels.length === 0) return null;
  const text = (numbers: readonly number[]) =>
    numbers
      .map((number) => (Math.abs(number) < 0.1 && number !== 0 ? number.toPrecision(2) : number.toFixed(3)))
      .join(' ');
  return (
    <details className="border-b border-[var(--line-soft)] px-3 py-2 text-[12px]">
      <summary className="cursor-pointer font-semibold">Channels at sample points, {channels.length}</summary>
      <table className="table table-xs table-pin-rows mt-1">
        <thead>
          <tr>
            <th />
            <th>Material, channel</th>
            <th>Source, mean</th>
            <th>Read, mean</th>
            <th>Largest</th>
          </tr>
        </thead>
        <tbody>
          {channels.map(({ material, channel, expected, found, largest, ok }, i) => (
            <tr key={`${i} ${material} ${channel}`}>
              <td>
                <Mark kind={ok ? 'fine' : 'broken'} />
              </td>
              <td>
                {material}, {channel}
              </td>
              <td className="font-mono text-[11px] whitespace-nowrap">{text(expected)}</td>
              <td className="font-mono text-[11px] whitespace-nowrap">{text(found)}</td>
              <td className="font-mono text-[11px] whitespace-nowrap">{(largest * 255).toFixed(2)}/255</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function Remarks({ title, lines }: { title: string; lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <div className="border-b border-[var(--line-soft)] px-3 py-2 text-[12px]">
      <h4 className="mb-0.5 font-semibold">{title}</h4>
      <ul className="list-disc pl-4">
        {lines.map((line) => (
          <li key={line} className="break-words">
            {line}
          </li>
        ))}
      </ul>
    </div>
  );
}
