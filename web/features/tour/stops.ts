/** A stop of the tour: what it points at on the bench, and what is said there. */
export interface TourStop {
  element: string;
  title: string;
  text: string;
}

/**
 * Five stops that show what the bench is for, from what is wrong to what leaves. All are seen on the slot
 * board.
 */
export const STOPS: readonly TourStop[] = [
  {
    element: 'aside[aria-label=Docket]',
    title: 'What is wrong, worst first',
    text: 'The docket tells what this asset lacks or says wrongly. N and P go through it, M mends the finding in hand, Shift+M all like it. Every mend can be undone.',
  },
  {
    element: '[role=grid][aria-label="Slot board"]',
    title: 'Every map in its slot',
    text: 'Materials down, channels across. Arrows move, Enter picks an image, C takes another component of it, I inverts it, S splits a packed image over three slots.',
  },
  {
    element: 'aside[aria-label=View]',
    title: 'What it looks like',
    text: 'Drag to turn. A click finds the material under it; a material chosen on the board shows its faces for a moment. "Base colour" and "more" show one channel alone.',
  },
  {
    element: 'nav[aria-label=Steps]',
    title: 'Eight steps, none of them in your way',
    text: 'Squares and triangles tell where something is open. Take the steps in any order, by the keys 1 to 8. Compare holds two states against each other, in pictures and numbers.',
  },
  {
    element: 'header a[href$="/handoff"].bg-accent',
    title: 'Hand it over, with proof',
    text: 'Choose where it goes. The package is read back as its receiver opens it, and the receipt tells what is the same and what is not.',
  },
];
