/** An empty list that is always the same one, so that what depends on it stays as it is while data is on its way. */
export const NONE: never[] = [];
