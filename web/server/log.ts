import pino from 'pino';

/** KINKAJOU_LOG names the level: trace, debug, info, warn, error, silent. */
export const log = pino({ level: process.env.KINKAJOU_LOG ?? 'info' });
