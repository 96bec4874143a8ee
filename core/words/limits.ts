/** Characters at most that one layer of words sets. */
export const MOST_CHARACTERS = 2000
