/** Motion is written with so many time codes a second: the usual frames of film. */
export const TIME_CODES_PER_SECOND = 24;
/** Seconds that a step takes, since USD joins samples by straight lines: a thousandth of a frame. */
export const STEP_GAP = 1 / TIME_CODES_PER_SECOND / 1000;
