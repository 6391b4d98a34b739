import pino from 'pino';

export const log = pino({ level: process.env.KINKAJOU_LOG ?? 'info' });
