'use client';

import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { useHotkeys } from 'react-hotkeys-hook';
import { create } from 'zustand';
import { FIELD } from '@/ui/Field';
import { useChoices } from '../choices.ts';
import { Modal } from '../Modal.tsx';
import { KeyCaps, KeyList } from './KeyList.tsx';
import { belongsElsewhere, dispatch, offered, run } from './registry.ts';
import { COMMAND_IDS, PLACES, type Place, wordsOf } from './table.ts';
import { useCommands } from './useCommands.ts';

const ALL_KEYS = [...new Set(COMMAND_IDS.flatMap((id) => wordsOf(id).keys))];
const useSheet = create<{ open: 'commands' | 'keys' | null }>()(() => ({ open: null }));

/** Hears the keys of the whole page, offers what can be done everywhere, and shows the lists of commands and of keys. */
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
    settings: () => router.push('/settings'),
  });
  const close = () => useSheet.setState({ open: null });
  if (open === 'commands') return <CommandSheet close={close} />;
  return open === 'keys' ? <KeyList close={close} /> : null;
}

function switchTheme(): void {
  useChoices.getState().set({ theme: document.documentElement.dataset.theme === 'night' ? 'day' : 'night' });
}

/** All that can be done here, found by typing; arrows choose, Enter does it. */
function CommandSheet({ close }: { close: () => void }) {
  const here = offered().filter((id) => id !== 'commands');
  return (
    <Modal title="Commands" close={close}>
      <Command label="Commands" className="grid">
        <div className="border-b border-[var(--line)] p-2">
          <Command.Input data-first-focus placeholder="What shall be done?" className={`${FIELD} w-full`} />
        </div>
        <Command.List className="max-h-[56vh] overflow-auto p-1.5">
          <Command.Empty className="p-6 text-center text-[var(--soft)]">Nothing of that name can be done here.</Command.Empty>
          {(Object.keys(PLACES) as Place[]).map((place) => {
            const inPlace = here.filter((id) => wordsOf(id).place === place);
            if (inPlace.length === 0) return null;
            return (
              <Command.Group key={place} heading={PLACES[place]} className="pb-1.5 text-[11.5px] text-[var(--soft)]">
                {inPlace.map((id) => (
                  <Command.Item
                    key={id}
                    value={wordsOf(id).title}
                    className="flex cursor-pointer items-center gap-3 rounded-md px-2 py-1 text-[12.8px] text-base-content data-[selected=true]:bg-[var(--honey-wash)]"
                    onSelect={() => {
                      close();
                      // What it opens must find this dialog gone.
                      setTimeout(() => run(id));
                    }}
                  >
                    <span className="min-w-0 flex-1">{wordsOf(id).title}</span>
                    <KeyCaps press={wordsOf(id).keys[0]} />
                  </Command.Item>
                ))}
              </Command.Group>
            );
          })}
        </Command.List>
      </Command>
    </Modal>
  );
}
