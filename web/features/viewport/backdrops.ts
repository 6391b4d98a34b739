/** Backdrops of one colour. */
export const PLAIN_BACKDROPS = { grey: '#7c7c78', dark: '#171a18' };
