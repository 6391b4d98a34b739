import { COMMAND_IDS, type CommandId, wordsOf } from './table.ts';

/**
 * Does what the command says; `false` says that there was nothing to do it to, so that the key stays the
 * browser's.
 */
export type Run = (event?: KeyboardEvent) => unknown;
/**
 * What can be done by the part of the page that is shown; a command that cannot be done now has no function.
 */
export type Handlers = Partial<Record<CommandId, Run | null>>;

/** Parts of the page that are shown, each with its latest handlers; the newest comes last. */
const layers: { current: Handlers }[] = [];

/** Holds the handlers of a part of the page until the returned function is called. */
export function addLayer(layer: { current: Handlers }): () => void {
  layers.push(layer);
  return () => void layers.splice(layers.indexOf(layer), 1);
}

/** What runs the command now, of the part of the page that was shown last; null where nothing can. */
export function handlerOf(id: CommandId): Run | null {
  return layers.findLast(({ current }) => current[id])?.current[id] ?? null;
}

/** Does a command, where it is at hand. */
export function run(id: CommandId): void {
  handlerOf(id)?.();
}

/** Commands that can be run now without a key. */
export function offered(): CommandId[] {
  return COMMAND_IDS.filter((id) => !wordsOf(id).byKeyOnly && handlerOf(id) !== null);
}

/** Runs what is bound to a key press in the words of the table; true where something was done. */
export function dispatch(press: string, event: KeyboardEvent): boolean {
  return COMMAND_IDS.some((id) => {
    const handler = wordsOf(id).keys.includes(press) ? handlerOf(id) : null;
    return handler !== null && handler(event) !== false;
  });
}

/**
 * True where a key belongs to what is being typed, to a control that the key moves or presses, or to an open
 * dialog.
 */
export function belongsElsewhere(event: KeyboardEvent): boolean {
  // A stop of the tour is a dialog, too, but not by that element.
  if (document.querySelector('dialog[open], .driver-popover')) return true;
  const target = event.target as HTMLElement;
  if (target.closest('input:not([type=checkbox]):not([type=range]), textarea, select, [contenteditable]'))
    return true;
  if (event.key.startsWith('Arrow')) return target.closest('input, [role=slider]') !== null;
  return event.key === 'Enter' && target.closest('button, a') !== null;
}
