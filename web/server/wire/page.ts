/**
 * The header by which a page names itself, so that its undo takes back its own edits and not those of others.
 */
export const PAGE_HEADER = 'x-kinkajou-page';
