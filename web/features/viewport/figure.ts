/** Height of the person that sizes are compared with, in metres. */
export const FIGURE_HEIGHT = 1.75;
/** A person as an outline in centimetres, y down, standing at 0; and the head above. */
export const FIGURE_PATH =
  'M-20 -142q20 -10 40 0l5 56q-3 5 -8 2l-4 -36 1 42 -3 76q-6 4 -10 0l-2 -70 -2 70q-4 4 -10 0l-3 -76 1 -42 -4 36q-5 3 -8 -2z';
export const FIGURE_HEAD = { y: -162, radius: 12.5 };
