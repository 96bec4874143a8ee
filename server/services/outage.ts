// Faults that are nobody's and pass: a database or a disk that is not there. Pages wait and try again.
export class Outage extends Error {}

/** SQLSTATE classes of PostgreSQL (documentation, appendix A): connection, resources, operator's intervention, system. */
const AWAY = /^(08|53|57P|58)/
const CODES = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EAI_AGAIN'])
const DISK = new Map([
  ['ENOSPC', 'The disk is full'],
  ['EDQUOT', 'The disk quota is used up'],
  ['EROFS', 'The disk cannot be written to'],
  ['EIO', 'The disk fails'],
  ['EMFILE', 'Too many files are open'],
])

/** What is out of order, as a sentence; undefined for any other fault. */
export function outageOf(error: unknown): string | undefined {
  for (
    let at = error as { code?: unknown; message?: unknown; cause?: unknown } | undefined, depth = 0;
    at && depth < 8;
    depth++
  ) {
    const code = typeof at.code === 'string' ? at.code : ''
    const disk = DISK.get(code) ?? (code === '53100' ? DISK.get('ENOSPC') : undefined)
    if (disk) return `${disk}: nothing new can be kept until there is room. What was saved stays.`
    if (
      at instanceof Outage ||
      CODES.has(code) ||
      (/^[0-9A-Z]{5}$/.test(code) && AWAY.test(code)) ||
      /^Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(
        String(at.message ?? ''),
      )
    )
      return 'The database does not answer. What was saved stays; Northmist goes on when it is back.'
    at = at.cause as typeof at
  }
  return undefined
}
