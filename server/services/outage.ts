// Faults that are nobody's and pass: a database or a disk that is not there. Pages wait and try again.
import { diskFault } from '../../host/disk'

export class Outage extends Error {}

/** SQLSTATE classes of PostgreSQL (documentation, appendix A): connection, resources, operator's intervention, system. */
const AWAY = /^(08|53|57P|58)/
const CODES = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EAI_AGAIN'])

/** What is out of order, as a sentence; undefined for any other fault. */
export function outageOf(error: unknown): string | undefined {
  for (
    let at = error as { code?: unknown; message?: unknown; cause?: unknown } | undefined, depth = 0;
    at && depth < 8;
    depth++
  ) {
    const code = typeof at.code === 'string' ? at.code : ''
    const disk = diskFault(code === '53100' ? 'ENOSPC' : code)
    if (disk) return disk
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
