/** Every key of the bench, for the list behind "?" and the status line. */
export const KEYS: readonly { keys: string[]; does: string }[] = [
  { keys: ['1', '…', '8'], does: 'go to a step' },
  { keys: ['N'], does: 'next finding' },
  { keys: ['P'], does: 'previous finding' },
  { keys: ['M'], does: 'mend the focused finding' },
  { keys: ['Shift', 'M'], does: 'mend all like it' },
  { keys: ['Q'], does: 'answer what is asked, one after the other' },
  { keys: ['E'], does: 'evidence of the focused finding' },
  { keys: ['←', '↑', '→', '↓'], does: 'move on the board or in the list' },
  { keys: ['Shift', '→'], does: 'select more slots; in Links, → chooses a candidate' },
  { keys: ['Ctrl', 'A'], does: 'select the whole column of the board' },
  { keys: ['Enter'], does: 'pick an image; in Links, link the chosen candidate' },
  { keys: ['I'], does: 'invert the selected slots' },
  { keys: ['C'], does: 'next component' },
  { keys: ['S'], does: 'split a packed image over three slots' },
  { keys: ['Ctrl', 'C'], does: 'copy the selected slots' },
  { keys: ['Ctrl', 'V'], does: 'paste into the selected slots or rows' },
  { keys: ['Ctrl', 'D'], does: 'fill the selection down from its top' },
  { keys: ['R'], does: 'in Links, apply the proposed path rule' },
  { keys: ['Y'], does: 'turn the normal direction' },
  { keys: ['Delete'], does: 'clear the selected slots' },
  { keys: ['Ctrl', 'Z'], does: 'undo' },
  { keys: ['Ctrl', 'Shift', 'Z'], does: 'redo' },
  { keys: ['L'], does: 'edit log' },
  { keys: ['F'], does: 'frame all in the view' },
  { keys: ['W'], does: 'wireframe' },
  { keys: ['X'], does: 'probe: values under the pointer' },
  { keys: ['T'], does: 'take pictures of the view' },
  { keys: ['V'], does: 'view: side, full, folded' },
  { keys: ['K'], does: 'in Compare, the next way of comparing' },
  { keys: [',', '.'], does: 'in Compare, move the wipe' },
  { keys: ['H'], does: 'hand off' },
  { keys: ['?'], does: 'this list' },
];

/** True where keys belong to what is being typed or to an open dialog. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  return target.closest('input:not([type=checkbox]):not([type=range]), textarea, select, [contenteditable], dialog') !== null;
}
