import type { Destination } from '@kinkajou/core/destinations/profile';

/** The profile as the form holds it: lists as text, and nothing as a word. */
export interface ProfileForm extends Omit<Destination, 'notes' | 'heightMid' | 'writeAs'> {
  notes: string;
  heightMid: string;
  writeAs: string;
}
