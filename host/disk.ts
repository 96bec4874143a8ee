// What a disk says when it cannot take or give anything, in words.
const FAULTS = new Map([
  ['ENOSPC', 'The disk is full'],
  ['EDQUOT', 'The disk quota is used up'],
  ['EROFS', 'The disk cannot be written to'],
  ['EIO', 'The disk fails'],
  ['EMFILE', 'Too many files are open'],
])

/** The sentence for a code of the system's; undefined where it is none of a disk. */
export function diskFault(code: string): string | undefined {
  const fault = FAULTS.get(code)
  return fault && `${fault}: nothing new can be kept until there is room. What was saved stays.`
}
