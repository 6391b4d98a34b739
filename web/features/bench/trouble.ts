import type { Health } from '@/server/services/health';

/** What the page knows of the server and its workers. */
export interface Reached {
  /** The page is not reached by the server's events. */
  lost: boolean;
  /** Answers that are waited for longer than is usual. */
  slow: number;
  /** What the store could not give, by name. */
  unread: readonly string[];
  /** The last answer about the server's parts; undefined before the first. */
  health: Health | undefined;
  /** Changes that were made here and are not sent yet. */
  unsent: number;
}

/**
 * What keeps the bench from working as it should, the worst first, with what becomes of one's work; null
 * where nothing does.
 */
export function troubleIn({ lost, slow, unread, health, unsent }: Reached): string | null {
  if (lost)
    return unsent > 0
      ? 'The server does not answer. What you did is kept here and sent when it does.'
      : 'The server does not answer. Trying again ...';
  if (health && health.database !== 'ok')
    return `${sentence(health.database)} Nothing is lost; work goes on when it does.`;
  if (health && health.worker !== 'ok')
    return `${sentence(health.worker)} Edits are kept; pictures, deliveries and handoffs wait for one.`;
  if (health && health.blobs !== 'ok') return `${sentence(health.blobs)} Nothing new can be taken in.`;
  if (unread.length > 0)
    return `${unread[0]}${unread.length > 1 ? ` and ${unread.length - 1} more` : ''} cannot be read from the store. Asked for again ...`;
  if (slow > 0) return 'The server takes long to answer. You can go on.';
  return null;
}

function sentence(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}${text.endsWith('.') ? '' : '.'}`;
}
