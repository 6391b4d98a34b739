/** Where a command can be had, in the order of the lists that show them. */
export const PLACES = {
  bench: 'On the bench',
  view: 'In the view',
  list: 'On the board and in lists',
  board: 'On the slot board',
  links: 'In Links',
  parts: 'In Parts',
  compare: 'In Compare',
  shelf: 'On the shelf',
  questions: 'In Questions',
  everywhere: 'Everywhere',
} as const;
/** Where a command holds. */
export type Place = keyof typeof PLACES;

/** A command as lists, tooltips and keys have it. */
export interface CommandWords {
  /** What it does, as lists and tooltips say it. */
  title: string;
  /**
   * Key presses, the first of which is shown: `mod` is Ctrl, or Command on a Mac. Signs that need Shift on
   * some keyboards stand there with and without it.
   */
  keys: readonly string[];
  place: Place;
  /** Means nothing without the key that was pressed, so it is not offered in the list of commands. */
  byKeyOnly?: true;
}

const ARROWS = ['up', 'down', 'left', 'right'] as const;

/**
 * Every command of the page: keys, the list of keys, tooltips and the list of commands are made from this.
 */
export const COMMANDS = {
  'step.intake': { title: 'Go to Intake', keys: ['1'], place: 'bench' },
  'step.links': { title: 'Go to Links', keys: ['2'], place: 'bench' },
  'step.slots': { title: 'Go to Slots', keys: ['3'], place: 'bench' },
  'step.colour': { title: 'Go to Colour', keys: ['4'], place: 'bench' },
  'step.surface': { title: 'Go to Surface', keys: ['5'], place: 'bench' },
  'step.parts': { title: 'Go to Parts', keys: ['6'], place: 'bench' },
  'step.compare': { title: 'Go to Compare', keys: ['7'], place: 'bench' },
  'step.handoff': { title: 'Hand off', keys: ['8', 'h'], place: 'bench' },
  nextFinding: { title: 'Next finding', keys: ['n'], place: 'bench' },
  previousFinding: { title: 'Previous finding', keys: ['p'], place: 'bench' },
  mend: { title: 'Mend the focused finding', keys: ['m'], place: 'bench' },
  mendSameKind: { title: 'Mend all like it', keys: ['shift+m'], place: 'bench' },
  mendSafe: { title: 'Mend all that is safe', keys: [], place: 'bench' },
  question: { title: 'Answer what is asked, one after the other', keys: ['q'], place: 'bench' },
  evidence: { title: 'Evidence of the focused finding', keys: ['e'], place: 'bench' },
  undo: { title: 'Undo', keys: ['mod+z'], place: 'bench' },
  redo: { title: 'Redo', keys: ['mod+shift+z', 'mod+y'], place: 'bench' },
  log: { title: 'Edit log', keys: ['l'], place: 'bench' },
  deliveries: {
    title: 'Newer files of this asset, and a folder that is watched for them',
    keys: [],
    place: 'bench',
  },
  templates: { title: 'Slot templates', keys: [], place: 'bench' },
  frame: { title: 'Frame all', keys: ['f'], place: 'view' },
  wireframe: { title: 'Wireframe', keys: ['w'], place: 'view' },
  probe: { title: 'Values under the pointer', keys: ['x'], place: 'view' },
  pictures: { title: 'Take pictures', keys: ['t'], place: 'view' },
  playTurn: { title: 'Turn about the middle of the bottom', keys: ['o'], place: 'view' },
  viewWindow: { title: 'View in a window of its own', keys: [], place: 'view' },
  viewSize: { title: 'View at the side, full, folded', keys: ['v'], place: 'view' },
  move: { title: 'Move', keys: ARROWS, place: 'list', byKeyOnly: true },
  extend: {
    title: 'Select more',
    keys: ARROWS.map((arrow) => `shift+${arrow}`),
    place: 'list',
    byKeyOnly: true,
  },
  selectColumn: { title: 'Select the whole column', keys: ['mod+a'], place: 'list' },
  selectOne: { title: 'Select the focused slot alone', keys: ['escape'], place: 'board' },
  pick: { title: 'Pick an image', keys: ['enter'], place: 'board' },
  invert: { title: 'Invert the selected slots', keys: ['i'], place: 'board' },
  component: { title: 'Next component', keys: ['c'], place: 'board' },
  split: { title: 'Split a packed image over three slots', keys: ['s'], place: 'board' },
  normalDirection: { title: 'Turn the normal direction', keys: ['y'], place: 'board' },
  clear: { title: 'Clear the selected slots', keys: ['delete', 'backspace'], place: 'board' },
  copy: { title: 'Copy the selected slots', keys: ['mod+c'], place: 'board' },
  paste: { title: 'Paste into the selected slots or rows', keys: ['mod+v'], place: 'board' },
  fillDown: { title: 'Fill the selection down from its top', keys: ['mod+d'], place: 'board' },
  link: { title: 'Link the chosen candidate', keys: ['enter'], place: 'links' },
  applyRule: { title: 'Apply the proposed path rule', keys: ['r'], place: 'links' },
  findPart: { title: 'Find parts by name', keys: ['/', 'shift+/'], place: 'parts' },
  hidePart: { title: 'Hide or show the selected parts', keys: ['g'], place: 'parts' },
  showAlone: { title: 'Show the selected parts alone, or all', keys: ['a'], place: 'parts' },
  dropPart: {
    title: 'Drop the selected parts, or bring them back',
    keys: ['delete', 'backspace'],
    place: 'parts',
  },
  placePart: { title: 'Place the selected parts by handles or numbers', keys: ['b'], place: 'parts' },
  stopPlacing: { title: 'Leave the parts where they are', keys: ['escape'], place: 'parts' },
  stopPicking: { title: 'Leave the pivot where it is', keys: ['escape'], place: 'parts' },
  takeoff: { title: 'Areas and volumes', keys: [], place: 'parts' },
  join: { title: 'Join another asset to this one', keys: ['j'], place: 'parts' },
  compareWay: { title: 'Next way of comparing', keys: ['k'], place: 'compare' },
  wipeLeft: { title: 'Move the wipe to the left', keys: [','], place: 'compare' },
  wipeRight: { title: 'Move the wipe to the right', keys: ['.'], place: 'compare' },
  search: { title: 'Search the shelf', keys: ['/', 'shift+/'], place: 'shelf' },
  selectFound: { title: 'Select all that the shelf shows', keys: ['mod+a'], place: 'shelf' },
  selectNone: { title: 'Select none', keys: ['escape'], place: 'shelf' },
  answer: {
    title: 'Answer by the number of the choice',
    keys: ['1', '2', '3', '4', '5', '6', '7', '8', '9'],
    place: 'questions',
    byKeyOnly: true,
  },
  notNow: { title: 'Not now', keys: ['n'], place: 'questions' },
  commands: { title: 'Commands', keys: ['mod+k'], place: 'everywhere' },
  keys: { title: 'Keys', keys: ['?', 'shift+?'], place: 'everywhere' },
  theme: { title: 'Switch between day and night', keys: [], place: 'everywhere' },
  shelf: { title: 'Go to the shelf', keys: [], place: 'everywhere' },
  intake: { title: 'Go to the intake of parcels', keys: [], place: 'everywhere' },
  destinations: { title: 'Go to destinations', keys: [], place: 'everywhere' },
  rulebooks: { title: 'Go to rulebooks', keys: [], place: 'everywhere' },
  questions: { title: 'Go to questions over the shelf', keys: [], place: 'everywhere' },
  runs: { title: 'Go to runs', keys: [], place: 'everywhere' },
  handoffs: { title: 'Go to handoffs', keys: [], place: 'everywhere' },
  insights: { title: 'Go to insights', keys: [], place: 'everywhere' },
  workers: { title: 'Go to workers and what waits', keys: [], place: 'everywhere' },
  settings: { title: 'Go to settings', keys: [], place: 'everywhere' },
  help: { title: 'Go to the guide', keys: ['f1'], place: 'everywhere' },
  tour: { title: 'Tour of the bench in five stops', keys: [], place: 'everywhere' },
} as const satisfies Record<string, CommandWords>;

/** Id of a command. */
export type CommandId = keyof typeof COMMANDS;
/** Ids of all commands, in the order of the table. */
export const COMMAND_IDS = Object.keys(COMMANDS) as CommandId[];

/** Words and keys of a command. */
export function wordsOf(id: CommandId): CommandWords {
  return COMMANDS[id];
}

const CAPS: Record<string, string> = {
  mod: 'Ctrl',
  shift: 'Shift',
  up: '↑',
  down: '↓',
  left: '←',
  right: '→',
  enter: 'Enter',
  escape: 'Esc',
  delete: 'Delete',
  backspace: 'Backspace',
};

/** A key press as it is printed on keycaps: `mod+shift+z` is Ctrl, Shift, Z. */
export function capsOf(press: string): string[] {
  return press.split('+').map((key) => CAPS[key] ?? key.toUpperCase());
}

/** What a button that runs the command says about itself, with its key: "Wireframe (W)". */
export function labelOf(id: CommandId, title: string = COMMANDS[id].title): string {
  const [press] = wordsOf(id).keys;
  return press === undefined ? title : `${title} (${capsOf(press).join('+')})`;
}
