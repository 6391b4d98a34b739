'use client';

import type { SlotAssignment } from '@kinkajou/core/asset/asset';
import type { FindingChoice } from '@kinkajou/core/findings/finding';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { pictureUrl } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { Button } from '@/ui/Button';
import { useChoices } from '@/ui/choices';
import { fileName, plural } from '@/ui/format';
import { Mark, markOfSeverity } from '@/ui/Mark';
import { useFocus } from '../bench/focus.ts';
import { type BenchView, useBench } from '../bench/useBench.ts';
import { fileOfCandidate } from '../links/CandidateCard.tsx';
import { besideQuestion, type Question, questionsOf, questionTitle } from './questions.ts';
import { useTryOn } from './tryOn.ts';

/**
 * The doubts of an asset, one after the other: each candidate with all its images, shown on the model while
 * it is looked at.
 */
export function QuestionSheet() {
  const bench = useBench();
  const { findings } = bench.view;
  const key = useFocus((state) => state.question);
  const set = useFocus((state) => state.set);
  const questions = useMemo(() => questionsOf(findings), [findings]);
  const index = questions.findIndex(({ finding }) => finding.key === key);
  const question = questions[index] ?? questions[0];
  // An answer may settle other questions too: what is asked next takes the place of what is gone.
  useEffect(() => {
    if (question && question.finding.key !== key)
      set({ question: question.finding.key, finding: question.finding.key });
    if (!question) set({ question: null });
  }, [question, key, set]);
  useEffect(() => () => useTryOn.setState({ edits: [] }), []);
  if (!question) return null;
  const go = (by: 1 | -1) => {
    const next = besideQuestion(findings, question.finding.key, by);
    set({ question: next, finding: next });
  };
  return (
    <div
      className="grid h-full"
      style={{ gridTemplateRows: '40px auto minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
      data-testid="question"
    >
      <Bar>
        <h2 className="text-[14px] font-bold">Questions</h2>
        <span className="text-[12px] text-[var(--soft)]">
          {index < 0 ? 1 : index + 1} of {questions.length}
        </span>
        <Button aria-label="Previous question" disabled={questions.length < 2} onClick={() => go(-1)}>
          <ChevronLeft size={13} />
        </Button>
        <Button aria-label="Next question" disabled={questions.length < 2} onClick={() => go(1)}>
          <ChevronRight size={13} />
        </Button>
        <span className="flex-1" />
        <RememberBox />
        <Button onClick={() => set({ question: null })}>Not now</Button>
      </Bar>
      <header className="border-b border-[var(--line-soft)] px-3 py-2">
        <h3 className="flex items-center gap-2 text-[15px] font-bold">
          <Mark kind={markOfSeverity(question.finding.severity)} /> {questionTitle(question.finding)}
        </h3>
        <p className="text-[12.3px] text-[var(--soft)]">{question.finding.message}</p>
      </header>
      <Candidates key={question.finding.key} question={question} />
      <footer className="border-t border-[var(--line)] px-3 py-1.5 text-[11.8px] text-[var(--soft)]">
        <kbd className="kbd kbd-xs font-mono">↑</kbd> <kbd className="kbd kbd-xs font-mono">↓</kbd> shows a
        candidate on the model, <kbd className="kbd kbd-xs font-mono">Enter</kbd> takes it,{' '}
        <kbd className="kbd kbd-xs font-mono">1</kbd> to <kbd className="kbd kbd-xs font-mono">9</kbd> take
        one at once, <kbd className="kbd kbd-xs font-mono">Esc</kbd> leaves it open. Undo takes an answer
        back.
      </footer>
    </div>
  );
}

function RememberBox() {
  const { rememberAnswers, set } = useChoices();
  return (
    <label
      className="flex cursor-pointer items-center gap-1.5 text-[12px]"
      title="Answers are evidence for later parcels of the same source. Settings lists and forgets them."
    >
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={rememberAnswers}
        onChange={(event) => set({ rememberAnswers: event.target.checked })}
      />
      remember answers
    </label>
  );
}

function Candidates({ question: { finding, choices } }: { question: Question }) {
  const bench = useBench();
  const remember = useChoices((state) => state.rememberAnswers);
  const set = useFocus((state) => state.set);
  const [chosen, setChosen] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const choice = choices[Math.min(chosen, choices.length - 1)];
  useEffect(() => useTryOn.setState({ edits: choice.edits }), [choice]);
  useEffect(() => list.current?.querySelector<HTMLElement>('[aria-selected=true]')?.focus(), []);
  const move = (to: number) => {
    setChosen(to);
    list.current?.querySelectorAll<HTMLElement>('[role=option]')[to]?.focus();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    // With Ctrl and the like a number is the browser's.
    const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
    const numbered = plain ? choices[Number(event.key) - 1] : undefined;
    if (by !== undefined) move((chosen + by + choices.length) % choices.length);
    else if (numbered) bench.answer(finding.key, numbered.id, remember);
    else if (event.key === 'Escape') set({ question: null });
    else if (event.key === 'Enter' || event.key === ' ') bench.answer(finding.key, choice.id, remember);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={list}
      role="listbox"
      aria-label={questionTitle(finding)}
      className="min-h-0 overflow-auto p-2"
      onKeyDown={onKeyDown}
    >
      {choices.map((candidate, i) => (
        <Candidate
          key={candidate.id}
          choice={candidate}
          view={bench.view}
          number={i + 1}
          chosen={i === chosen}
          busy={bench.busy}
          look={() => setChosen(i)}
          take={() => bench.answer(finding.key, candidate.id, remember)}
        />
      ))}
    </div>
  );
}

interface CandidateProps {
  choice: FindingChoice;
  /** Its key, from 1. */
  number: number;
  view: BenchView;
  chosen: boolean;
  busy: boolean;
  look: () => void;
  take: () => void;
}

function Candidate({ choice, number, view, chosen, busy, look, take }: CandidateProps) {
  const channels = channelsOf(choice);
  const folder = choice.images[0]?.slice(0, -fileName(choice.images[0]).length) ?? '';
  return (
    <div
      role="option"
      aria-selected={chosen}
      tabIndex={chosen ? 0 : -1}
      data-choice={choice.id}
      className={`mb-2 cursor-pointer rounded-[5px] border bg-base-100 p-2 outline-none ${chosen ? 'border-accent ring-2 ring-accent' : 'border-[var(--line)]'}`}
      onMouseEnter={look}
      onFocus={look}
    >
      <div className="mb-1.5 flex items-center gap-2">
        {number <= 9 && <kbd className="kbd kbd-xs font-mono">{number}</kbd>}
        <b className="min-w-0 truncate text-[13px]" title={choice.label}>
          {choice.label}
        </b>
        {choice.images.length > 0 && (
          <span className="min-w-0 truncate font-mono text-[11.3px] text-[var(--soft)]" title={folder}>
            {folder || 'top folder'}
          </span>
        )}
        <span className="flex-1" />
        {choice.images.length > 0 && (
          <span className="whitespace-nowrap text-[11.8px] text-[var(--soft)]">
            {plural(choice.images.length, 'image')}
          </span>
        )}
        <Button main tabIndex={-1} disabled={busy} onClick={take}>
          Take
        </Button>
      </div>
      <div className="flex flex-wrap gap-1.5">
        {choice.images.map((path) => {
          const file = fileOfCandidate(view, path);
          return (
            <figure key={path} className="w-[88px]" title={path}>
              {file ? (
                <span
                  className="block h-[66px] rounded border border-black/15 bg-cover bg-center"
                  style={{ backgroundImage: `url(${pictureUrl(file.sha256, 192)})` }}
                />
              ) : (
                <span className="grid h-[66px] place-items-center rounded border border-[var(--line)] text-[11px] text-[var(--soft)]">
                  tiles
                </span>
              )}
              <figcaption className="narrow truncate text-[11px]">
                {channels.get(path) ?? fileName(path)}
              </figcaption>
            </figure>
          );
        })}
      </div>
      {choice.reason && <p className="mt-1.5 text-[11.8px] text-[var(--soft)]">{choice.reason}</p>}
    </div>
  );
}

/** What each image of a choice would feed, in words. */
function channelsOf({ edits }: FindingChoice): Map<string, string> {
  const channels = new Map<string, string>();
  const tell = ({ image, channel }: SlotAssignment) => {
    const existing = channels.get(image);
    channels.set(image, existing ? `${existing}, ${channelTitle(channel)}` : channelTitle(channel));
  };
  for (const edit of edits) if (edit.kind === 'assignSlots') edit.assignments.forEach(tell);
  return channels;
}
