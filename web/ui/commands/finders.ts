/** A thing that the list of commands leads to by its name. */
export interface Found {
  key: string;
  title: string;
  /** What else tells it from others of that name. */
  detail: string;
  /** By what else it is found. */
  words?: string;
  go(): void;
}

/** Things of one kind that can be found now. */
export interface Finder {
  heading: string;
  find(): Found[];
}

const finders: { current: Finder[] }[] = [];

/** Has the list of commands lead to more things until the returned function is called. */
export function addFinders(own: { current: Finder[] }): () => void {
  finders.push(own);
  return () => void finders.splice(finders.indexOf(own), 1);
}

/** What the pages that are open can find beside commands. */
export function allFinders(): Finder[] {
  return finders.flatMap(({ current }) => current);
}
