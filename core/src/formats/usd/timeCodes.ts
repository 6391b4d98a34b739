/** Motion is written with so many time codes a second: the usual frames of film. */
export const TIME_CODES_PER_SECOND = 24;
