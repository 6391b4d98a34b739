'use client';

import { hasMend, sameKindWithMend } from '@kinkajou/core/edits/mends';
import type { Finding } from '@kinkajou/core/findings/finding';
import { CircleCheck } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { Breakable } from '@/ui/Breakable';
import { Button } from '@/ui/Button';
import { labelOf } from '@/ui/commands/table';
import { count, plural } from '@/ui/format';
import { Mark, markOfSeverity } from '@/ui/Mark';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { moveFinding, openQuestion } from '../bench/useBenchCommands.ts';
import { IMAGE_ACCEPT, useImageUpload } from '../links/useImageUpload.ts';
import { asks, questionsOf } from '../questions/questions.ts';
import { openMake } from '../surface/makeStore.ts';
import { mendOne, mendSafe, mendSameKind } from './mend.ts';

/** The findings of the asset, worst first. */
export function Docket() {
  const bench = useBench();
  const { findings, mended } = bench.view;
  const groups = useMemo(() => groupSameKind(findings), [findings]);
  const safe = findings.filter((finding) => finding.safe && hasMend(finding)).length;
  const questions = useMemo(() => questionsOf(findings).length, [findings]);
  return (
    <aside className="flex min-h-0 flex-col border-r border-[var(--line)] bg-base-200 pl-3 pr-1 pt-2.5" aria-label="Docket">
      <div className="mb-2 mr-2 flex items-baseline justify-between">
        <h2 className="text-[13.5px] font-bold">Docket</h2>
        <span className="text-[11.5px] text-[var(--soft)]">
          {findings.length} open, {mended} mended
        </span>
      </div>
      {safe > 0 && (
        <Button className="mb-2 mr-2" disabled={bench.busy} onClick={() => mendSafe(bench)}>
          Mend all that is safe ({safe})
        </Button>
      )}
      {questions > 0 && (
        <Button className="mb-2 mr-2" title={labelOf('question', 'One after the other, each shown on the model')} onClick={() => openQuestion(bench)}>
          Answer {plural(questions, 'question')}
        </Button>
      )}
      <ol className="min-h-0 flex-1 overflow-auto p-0.5 pr-1.5">
        {groups.map((group) => (
          <FindingGroup key={group[0].finding.key} group={group} bench={bench} />
        ))}
        {findings.length === 0 && (
          <li className="grid justify-items-center gap-2 py-10 text-center text-[var(--soft)]">
            <CircleCheck className="text-success" />
            Nothing is open. Look at it once more, then hand it off.
          </li>
        )}
      </ol>
    </aside>
  );
}

interface Placed {
  finding: Finding;
  /** Place in the docket, for N and P. */
  index: number;
}

/** More findings of one kind than this are folded, so that they do not hide the others. */
const FOLD_FROM = 6;
const SHOWN = 3;

/** Neighbours of one kind together. */
function groupSameKind(findings: readonly Finding[]): Placed[][] {
  const groups: Placed[][] = [];
  findings.forEach((finding, index) => {
    const last = groups.at(-1);
    if (last?.[0].finding.code === finding.code) last.push({ finding, index });
    else groups.push([{ finding, index }]);
  });
  return groups;
}

function FindingGroup({ group, bench }: { group: Placed[]; bench: Bench }) {
  const focused = useFocus((state) => state.finding);
  const [open, setOpen] = useState(false);
  const folds = group.length >= FOLD_FROM;
  const position = group.findIndex(({ finding }) => finding.key === focused);
  const shown = !folds || open ? group : group.filter((_, i) => i < SHOWN || i === position);
  return (
    <>
      {shown.map(({ finding, index }) => (
        <FindingCard key={finding.key} finding={finding} bench={bench} focus={() => moveFinding(bench, index)} />
      ))}
      {folds && (
        <li className="mb-[7px]">
          <button
            type="button"
            className="w-full cursor-pointer rounded-[5px] border border-dashed border-[var(--line)] py-1 text-[11.8px] text-[var(--soft)] hover:border-accent"
            onClick={() => setOpen(!open)}
          >
            {open ? 'fold' : `and ${count(group.length - shown.length)} more: ${group[0].finding.title}`}
          </button>
        </li>
      )}
    </>
  );
}

const EDGE = { error: 'border-l-error', warning: 'border-l-accent', note: 'border-l-[var(--soft)]' };

function FindingCard({ finding, bench, focus }: { finding: Finding; bench: Bench; focus: () => void }) {
  const focused = useFocus((state) => state.finding === finding.key);
  const set = useFocus((state) => state.set);
  const group = sameKindWithMend(bench.view.findings, finding);
  return (
    <li className="mb-[7px]" data-finding={finding.code} data-finding-focused={focused || undefined}>
      <article
        className={`rounded-[5px] border border-l-4 border-[var(--line)] bg-base-100 px-2.5 py-2 ${EDGE[finding.severity]} ${focused ? 'ring-2 ring-accent' : ''}`}
        aria-label={finding.title}
      >
        <button type="button" className="block w-full cursor-pointer text-left" onClick={focus}>
          <h3 className="mb-0.5 flex items-center gap-1.5 text-[12.8px] font-semibold">
            <Mark kind={markOfSeverity(finding.severity)} /> {finding.title}
          </h3>
          <p className="text-[12px] break-words text-[var(--soft)]">
            <Breakable text={finding.message} />
          </p>
        </button>
        <div className="mt-1.5 flex flex-wrap items-center gap-1.5 empty:hidden">
          {asks(finding) && (
            <Button
              main
              onClick={() => {
                focus();
                set({ question: finding.key });
              }}
            >
              Choose
            </Button>
          )}
          {hasMend(finding) && (
            <Button data-mend main={!asks(finding)} disabled={bench.busy} onClick={() => mendOne(bench, finding)}>
              {finding.mendLabel}
            </Button>
          )}
          {finding.make && <Button onClick={() => openMake(finding.make as NonNullable<Finding['make']>)}>Look first</Button>}
          {hasMend(finding) && group.length > 1 && (
            <Button disabled={bench.busy} onClick={() => mendSameKind(bench, finding)}>
              All alike ({group.length})
            </Button>
          )}
          {finding.code === 'link.missing' && !finding.mend && <UploadButton />}
          {finding.evidence.length > 0 && (
            <button
              type="button"
              className="ml-auto cursor-pointer text-[11.5px] text-[var(--soft)] hover:underline"
              onClick={() => {
                focus();
                set({ dialog: 'evidence' });
              }}
            >
              evidence
            </button>
          )}
        </div>
      </article>
    </li>
  );
}

/** What is not in the parcel comes from the person's own disk. */
function UploadButton() {
  const upload = useImageUpload();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>Upload ...</Button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        data-testid="upload-missing"
        accept={IMAGE_ACCEPT}
        onChange={(event) => {
          void upload([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
    </>
  );
}
