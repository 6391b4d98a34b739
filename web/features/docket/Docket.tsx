'use client';

import { hasMend, sameKindWithMend } from '@kinkajou/core/edits/mends';
import type { Finding, Step } from '@kinkajou/core/findings/finding';
import { CircleCheck, Copy } from 'lucide-react';
import { type ReactNode, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { Breakable } from '@/ui/Breakable';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { labelOf } from '@/ui/commands/table';
import { count, plural } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import { Mark, markOfSeverity } from '@/ui/Mark';
import { Middle } from '@/ui/Middle';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { focusFinding, openQuestion } from '../bench/useBenchCommands.ts';
import { IMAGE_ACCEPT, useImageUpload } from '../links/useImageUpload.ts';
import { asks, questionsOf } from '../questions/questions.ts';
import { openMake } from '../surface/makeStore.ts';
import { type FindingGroup, groupsOf, shownPlaces } from './groups.ts';
import { mendOne, mendSafe, mendSameKind } from './mend.ts';

/** The findings of the asset, one card per kind, worst first. */
export function Docket({ step }: { step: Step }) {
  const bench = useBench();
  const { findings, mended } = bench.view;
  const { docketHere, set } = useChoices();
  const groups = useMemo(() => groupsOf(findings, docketHere ? step : null), [findings, docketHere, step]);
  const here = findings.filter((finding) => finding.step === step).length;
  const safe = findings.filter((finding) => finding.safe && hasMend(finding)).length;
  const questions = useMemo(() => questionsOf(findings).length, [findings]);
  return (
    <aside className="flex h-full min-h-0 flex-col bg-base-200 pt-2.5 pr-1 pl-3" aria-label="Docket">
      <div className="mr-2 mb-2 flex flex-wrap items-center gap-x-2 gap-y-1">
        <h2 className="text-[13.5px] font-bold">Docket</h2>
        <span className="flex-1" />
        <span className="text-[11.5px] text-[var(--soft)]">{findings.length} open</span>
        {mended > 0 && (
          <button
            type="button"
            className="cursor-pointer text-[11.5px] text-[var(--soft)] underline decoration-dotted underline-offset-2 hover:decoration-solid"
            title={labelOf('log', 'What was done, and back to any of it')}
            onClick={() => useFocus.getState().set({ dialog: 'log' })}
          >
            {mended} mended
          </button>
        )}
        {findings.length > 0 && (
          <Chip
            aria-pressed={docketHere}
            title="Only what this step can settle"
            onClick={() => set({ docketHere: !docketHere })}
          >
            this step {here}
          </Chip>
        )}
      </div>
      {safe > 0 && (
        <Button className="mr-2 mb-2" disabled={bench.busy} onClick={() => mendSafe(bench)}>
          Mend all that is safe ({safe})
        </Button>
      )}
      {questions > 0 && (
        <Button
          className="mr-2 mb-2"
          title={labelOf('question', 'One after the other, each shown on the model')}
          onClick={() => openQuestion(bench)}
        >
          Answer {plural(questions, 'question')}
        </Button>
      )}
      <ol className="min-h-0 flex-1 overflow-auto p-0.5 pr-1.5">
        {groups.map((group) => (
          <KindCard key={group.code} group={group} bench={bench} />
        ))}
        {groups.length === 0 && (
          <li className="grid justify-items-center gap-2 py-10 text-center text-[var(--soft)]">
            <CircleCheck className="text-success" />
            {findings.length === 0
              ? 'Nothing is open. Look at it once more, then hand it off.'
              : `Nothing is open here; ${plural(findings.length, 'finding')} on other steps.`}
          </li>
        )}
      </ol>
    </aside>
  );
}

const EDGE = { error: 'border-l-error', warning: 'border-l-accent', note: 'border-l-[var(--soft)]' };

/** One kind of finding: said once where it is one, else opened to its places. */
function KindCard({ group, bench }: { group: FindingGroup; bench: Bench }) {
  const { code, title, severity, findings } = group;
  const focused = useFocus((state) => state.finding);
  const [open, setOpen] = useState(false);
  const [first] = findings;
  const single = findings.length === 1;
  const holds = findings.some(({ key }) => key === focused);
  const mendable = findings.filter(hasMend);
  const alike = mendable.length === 0 ? [] : sameKindWithMend(bench.view.findings, mendable[0]);
  const shown = shownPlaces(findings, { open, focused });
  return (
    <li
      className="mb-[7px]"
      data-finding={code}
      data-places={findings.length}
      data-finding-focused={(single && holds) || undefined}
    >
      <article
        className={`rounded-[5px] border border-l-4 border-[var(--line)] bg-base-100 px-2.5 py-2 ${EDGE[severity]} ${holds ? 'ring-2 ring-accent' : ''}`}
        aria-label={single ? title : `${title}, ${findings.length}`}
      >
        <h3 className="flex items-center gap-1.5 text-[12.8px] font-semibold">
          <Mark kind={markOfSeverity(severity)} />
          <button
            type="button"
            className="min-w-0 flex-1 cursor-pointer truncate text-left"
            title={title}
            onClick={() => focusFinding(first)}
          >
            {title}
          </button>
          {!single && (
            <span className="badge badge-sm border-[var(--line)] bg-base-200 font-mono text-[11px]">
              {count(findings.length)}
            </span>
          )}
        </h3>
        {single ? (
          <>
            <Message finding={first} />
            <Actions finding={first} bench={bench} />
          </>
        ) : (
          <>
            {alike.length > 1 && (
              <div className="mt-1.5">
                <Button
                  disabled={bench.busy}
                  title={mendable[0].mendLabel}
                  onClick={() => mendSameKind(bench, mendable[0])}
                >
                  All alike ({alike.length})
                </Button>
              </div>
            )}
            <ol className="mt-1 -mr-1 grid" aria-label={`Places: ${title}`}>
              {shown.map((finding) => (
                <Place key={finding.key} finding={finding} bench={bench} focused={finding.key === focused} />
              ))}
            </ol>
            {shown.length < findings.length || open ? (
              <button
                type="button"
                className="mt-0.5 w-full cursor-pointer rounded py-0.5 text-left text-[11.8px] text-[var(--soft)] underline decoration-dotted underline-offset-2 hover:decoration-solid"
                aria-expanded={open}
                onClick={() => setOpen(!open)}
              >
                {open ? 'fewer' : `and ${count(findings.length - shown.length)} more`}
              </button>
            ) : null}
          </>
        )}
      </article>
    </li>
  );
}

/** One place of several: its name; in hand, what is said of it and what can be done. */
function Place({ finding, bench, focused }: { finding: Finding; bench: Bench; focused: boolean }) {
  return (
    <li
      data-finding-focused={focused || undefined}
      className={`rounded px-1 ${focused ? 'bg-[var(--honey-wash)] py-1' : ''}`}
    >
      <button
        type="button"
        className="flex min-h-6 w-full cursor-pointer items-center text-left text-[12px]"
        aria-pressed={focused}
        onClick={() => focusFinding(finding)}
      >
        <Middle text={finding.subject} />
      </button>
      {focused && <Message finding={finding} />}
      {focused && <Actions finding={finding} bench={bench} />}
    </li>
  );
}

/** Two lines of what is said; all of it where the pointer rests. */
function Message({ finding }: { finding: Finding }) {
  const { message } = finding;
  return (
    <button
      type="button"
      tabIndex={-1}
      className="mt-0.5 line-clamp-2 w-full cursor-pointer text-left text-[12px] break-words text-[var(--soft)]"
      title={message}
      onClick={() => focusFinding(finding)}
    >
      <Breakable text={message} />
    </button>
  );
}

function Actions({ finding, bench }: { finding: Finding; bench: Bench }) {
  const set = useFocus((state) => state.set);
  const focus = () => focusFinding(finding);
  const actions: ReactNode[] = [
    asks(finding) && (
      <Button
        key="choose"
        main
        onClick={() => {
          focus();
          set({ question: finding.key });
        }}
      >
        Choose
      </Button>
    ),
    hasMend(finding) && (
      <Button
        key="mend"
        data-mend
        main={!asks(finding)}
        disabled={bench.busy}
        onClick={() => mendOne(bench, finding)}
      >
        {finding.mendLabel}
      </Button>
    ),
    finding.make && (
      <Button key="make" onClick={() => openMake(finding.make as NonNullable<Finding['make']>)}>
        Look first
      </Button>
    ),
    finding.code === 'link.missing' && !finding.mend && <UploadButton key="upload" />,
  ].filter(Boolean);
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5 empty:hidden">
      {actions}
      <span className="ml-auto flex items-center gap-1.5">
        {finding.evidence.length > 0 && (
          <button
            type="button"
            className="cursor-pointer text-[11.5px] text-[var(--soft)] hover:underline"
            onClick={() => {
              focus();
              set({ dialog: 'evidence' });
            }}
          >
            evidence
          </button>
        )}
        <a
          className="text-[11.5px] text-[var(--soft)] hover:underline"
          href={`/help/findings#${finding.code}`}
          target="_blank"
          rel="noreferrer"
        >
          why?
        </a>
        {/[/\\.]/.test(finding.subject) && (
          <IconButton label={`Copy ${finding.subject}`} onClick={() => void copy(finding.subject)}>
            <Copy size={11} />
          </IconButton>
        )}
      </span>
    </div>
  );
}

async function copy(text: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text);
    toast(`${text} is on the clipboard`);
  } catch {
    toast.error('The browser does not let this page write to the clipboard.');
  }
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
