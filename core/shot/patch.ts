// Changes of a document as JSON Patch (RFC 6902) that say what they mean.
import jsonPatch, { type Operation } from 'fast-json-patch'
import type { ShotDocument } from './document'

/**
 * The patch that takes a document to another. It tests each value that it replaces, and first of all, in each list that
 * it reaches into, the id of every item up to the last that it touches: places in a list move when somebody else adds or
 * takes away before them, and a change must not land on a neighbour.
 */
export function patchBetween(before: ShotDocument, after: ShotDocument): Operation[] {
  const changes = jsonPatch.compare(before, after, true)
  // By list: how far into it the changes reach
  const reached = new Map<string, number>()
  for (const { path } of changes) {
    const steps = path.split('/')
    let at: unknown = before
    for (let i = 1; i < steps.length && typeof at === 'object' && at !== null; i++) {
      const step = steps[i]!.replaceAll('~1', '/').replaceAll('~0', '~')
      if (Array.isArray(at) && /^\d+$/.test(step)) {
        const list = steps.slice(0, i).join('/')
        reached.set(list, Math.max(reached.get(list) ?? 0, Number(step)))
      }
      at = (at as Record<string, unknown>)[step]
    }
  }
  const tests = [...reached].flatMap(([list, last]) => {
    const items = jsonPatch.getValueByPointer(before, list) as unknown[]
    return items.slice(0, last + 1).flatMap((item, i): Operation[] => {
      const id = (item as { id?: unknown } | null)?.id
      return typeof id === 'string' ? [{ op: 'test', path: `${list}/${i}/id`, value: id }] : []
    })
  })
  return [...tests, ...changes]
}
