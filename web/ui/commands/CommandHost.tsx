'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { useDeferredValue, useMemo, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { toast } from 'sonner';
import { create } from 'zustand';
import { startTour } from '@/features/tour/tour';
import { FIELD } from '@/ui/Field';
import { api } from '../api.ts';
import { useChoices } from '../choices.ts';
import { Modal } from '../Modal.tsx';
import { allFinders, type Found } from './finders.ts';
import { KeyCaps, KeyList } from './KeyList.tsx';
import { belongsElsewhere, dispatch, offered, run } from './registry.ts';
import { COMMAND_IDS, PLACES, type Place, wordsOf } from './table.ts';
import { useCommands } from './useCommands.ts';

const ALL_KEYS = [...new Set(COMMAND_IDS.flatMap((id) => wordsOf(id).keys))];
const useSheet = create<{ open: 'commands' | 'keys' | null }>()(() => ({ open: null }));

/**
 * Hears the keys of the whole page, offers what can be done everywhere, and shows the lists of commands and
 * of keys.
 */
export function CommandHost() {
  const router = useRouter();
  const open = useSheet((sheet) => sheet.open);
  useHotkeys(
    ALL_KEYS,
    (event, { hotkey }) => {
      if (dispatch(hotkey, event)) event.preventDefault();
    },
    { useKey: true, enableOnFormTags: true, delimiter: '|', ignoreEventWhen: belongsElsewhere },
  );
  useCommands({
    commands: () => useSheet.setState({ open: 'commands' }),
    keys: () => useSheet.setState({ open: 'keys' }),
    theme: switchTheme,
    shelf: () => router.push('/'),
    intake: () => router.push('/intake'),
    destinations: () => router.push('/destinations'),
    rulebooks: () => router.push('/rulebooks'),
    questions: () => router.push('/questions'),
    runs: () => router.push('/runs'),
    handoffs: () => router.push('/handoffs'),
    insights: () => router.push('/insights'),
    workers: () => router.push('/workers'),
    settings: () => router.push('/settings'),
    help: () => router.push('/help'),
    tour: () =>
      void startTour(location.pathname, router.push).catch((error: Error) => toast.error(error.message)),
  });
  const close = () => useSheet.setState({ open: null });
  if (open === 'commands') return <CommandSheet close={close} />;
  return open === 'keys' ? <KeyList close={close} /> : null;
}

function switchTheme(): void {
  useChoices.getState().set({ theme: document.documentElement.dataset.theme === 'night' ? 'day' : 'night' });
}

/** All that can be done here and all that can be gone to, found by typing; arrows choose, Enter does it. */
function CommandSheet({ close }: { close: () => void }) {
  const here = offered().filter((id) => id !== 'commands');
  const [words, setWords] = useState('');
  const assets = useAssetsCalled(useDeferredValue(words.trim()));
  const finders = useMemo(() => allFinders().map(({ heading, find }) => ({ heading, found: find() })), []);
  const go = (act: () => void) => {
    close();
    // What it opens must find this dialog gone.
    setTimeout(act);
  };
  return (
    <Modal title="Commands" close={close}>
      <Command label="Commands" className="grid" filter={holdsWords}>
        <div className="border-b border-[var(--line)] p-2">
          <Command.Input
            data-first-focus
            value={words}
            onValueChange={setWords}
            placeholder="What shall be done, or what do you look for?"
            className={`${FIELD} w-full`}
          />
        </div>
        <Command.List className="max-h-[56vh] overflow-auto p-1.5">
          <Command.Empty className="p-6 text-center text-[var(--soft)]">
            Nothing of that name can be done or found here.
          </Command.Empty>
          {(Object.keys(PLACES) as Place[]).map((place) => {
            const inPlace = here.filter((id) => wordsOf(id).place === place);
            if (inPlace.length === 0) return null;
            return (
              <Command.Group
                key={place}
                heading={PLACES[place]}
                className="pb-1.5 text-[11.5px] text-[var(--soft)]"
              >
                {inPlace.map((id) => (
                  <Command.Item
                    key={id}
                    value={wordsOf(id).title}
                    className={ITEM}
                    onSelect={() => go(() => run(id))}
                  >
                    <span className="min-w-0 flex-1">{wordsOf(id).title}</span>
                    <KeyCaps press={wordsOf(id).keys[0]} />
                  </Command.Item>
                ))}
              </Command.Group>
            );
          })}
          {words.trim() !== '' &&
            finders.map(({ heading, found }) => (
              <FoundGroup key={heading} heading={heading} found={found} go={go} />
            ))}
          {words.trim() !== '' && <FoundGroup heading="Assets" found={assets} words={words.trim()} go={go} />}
        </Command.List>
      </Command>
    </Modal>
  );
}

const ITEM =
  'flex cursor-pointer items-center gap-3 rounded-md px-2 py-1 text-[12.8px] text-base-content data-[selected=true]:bg-[var(--honey-wash)]';

/** Whether a line holds every word that was typed; one that begins with them comes first. */
function holdsWords(value: string, search: string, keywords?: string[]): number {
  const text = (keywords && keywords.length > 0 ? keywords.join(' ') : value).toLowerCase();
  const typed = search.toLowerCase().trim();
  if (text.startsWith(typed)) return 1;
  return typed.split(/\s+/).every((word) => text.includes(word)) ? 0.5 : 0;
}

interface FoundGroupProps {
  heading: string;
  found: readonly Found[];
  /** What the server was asked for: its answers need not hold the words in their titles. */
  words?: string;
  go(act: () => void): void;
}

function FoundGroup({ heading, found, words, go }: FoundGroupProps) {
  if (found.length === 0) return null;
  return (
    <Command.Group heading={heading} className="pb-1.5 text-[11.5px] text-[var(--soft)]">
      {found.map((one) => (
        <Command.Item
          key={one.key}
          value={`${heading} ${one.key} ${one.title}`}
          keywords={[one.title, one.words, words].filter((text) => text !== undefined)}
          className={ITEM}
          onSelect={() => go(one.go)}
        >
          <span className="min-w-0 flex-1 truncate">{one.title}</span>
          <span className="max-w-[45%] truncate text-[11.5px] text-[var(--soft)]">{one.detail}</span>
        </Command.Item>
      ))}
    </Command.Group>
  );
}

const MOST_ASSETS = 12;

/** Assets of the shelf that have the words in their name, parcel or model. */
function useAssetsCalled(words: string): Found[] {
  const router = useRouter();
  const { data } = useQuery({
    queryKey: ['shelf', { search: words, limit: MOST_ASSETS }],
    queryFn: () =>
      api<{ assets: { id: string; name: string; parcelName: string }[] }>(
        `/api/shelf?${new URLSearchParams({ search: words, limit: String(MOST_ASSETS) })}`,
      ),
    enabled: words !== '',
    placeholderData: keepPreviousData,
  });
  if (words === '') return [];
  return (data?.assets ?? []).map(({ id, name, parcelName }) => ({
    key: id,
    title: name,
    detail: parcelName,
    go: () => router.push(`/assets/${id}`),
  }));
}
