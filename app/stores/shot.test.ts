// The open shot against a server of the test's own that keeps revisions as the real one does (tests/e2e has the real
// one).
import jsonPatch, { type Operation } from 'fast-json-patch'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newDocument, newTreatment, type ShotDocument, type TreatmentSettings } from '../../core/shot/document'
import { addRow, inOrder, rowsOf } from '../../core/shot/rows'
import { useShot } from './shot'

interface Held {
  document: ShotDocument
  revision: number
  cursor: number
  changes: number
}
let held: Held
let online: boolean
let requests: {
  method: string
  path: string
  body: { revision: number; label: string; patch: Operation[] } | undefined
}[]
let refuse: string
let former: Record<string, unknown>
let failing: number
let slow: Promise<void> | undefined
let kept: Map<string, string>

const answer = (status: number, body: unknown): Response =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } })
async function server(path: string, init?: RequestInit): Promise<Response> {
  const method = init?.method ?? 'GET'
  const body = init?.body
    ? (JSON.parse(String(init.body)) as { revision: number; label: string; patch: Operation[] })
    : undefined
  requests.push({ method, path, body })
  await slow
  if (!online) throw new TypeError('fetch failed')
  if (path.endsWith('/former')) return answer(200, { revision: 5, document: former })
  if (method === 'GET') return answer(200, { id: 'one', name: 'Quay', ...structuredClone(held) })
  if (failing) return answer(failing, { message: 'The database does not answer.' })
  if (refuse) return answer(400, { message: refuse })
  if (body!.revision !== held.revision)
    return answer(409, { message: 'changed elsewhere', revision: held.revision, document: held.document })
  if (method === 'PATCH') {
    try {
      held.document = jsonPatch.applyPatch(structuredClone(held.document), body!.patch, true, false).newDocument
    } catch {
      return answer(400, { message: 'does not fit' })
    }
    held.revision++
    held.cursor++
    held.changes = held.cursor
  } else held.revision++
  return answer(200, { ...structuredClone(held), label: 'Exposure' })
}
/** Someone else changes the shot. */
function elsewhere(mutate: (document: ShotDocument) => void): void {
  held.document = structuredClone(held.document)
  mutate(held.document)
  held.revision++
  held.cursor++
  held.changes++
}

beforeEach(() => {
  held = { document: newDocument(), revision: 5, cursor: 2, changes: 2 }
  held.document.finish = rowsOf<TreatmentSettings>([newTreatment('exposure', { stops: 0 }, 'e')])
  online = true
  requests = []
  refuse = ''
  failing = 0
  slow = undefined
  kept = new Map()
  vi.useFakeTimers()
  vi.stubGlobal('fetch', vi.fn(server))
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => {
      kept.set(key, value)
    },
    removeItem: (key: string) => {
      kept.delete(key)
    },
  })
  setActivePinia(createPinia())
})
const settled = async (): Promise<void> => {
  for (let i = 0; i < 6; i++) await vi.advanceTimersByTimeAsync(10)
}
const opened = async () => {
  const shot = useShot()
  await shot.open('one')
  return shot
}
const stops =
  (value: number) =>
  (document: ShotDocument): void => {
    document.finish.e!.values.stops = value
  }

describe('a change', () => {
  it('is kept in the browser at once, sent as a patch on its revision, and let go when it is saved', async () => {
    const shot = await opened()
    shot.change('Exposure', stops(1))
    expect([...kept.keys()]).toEqual(['northmist/unsaved/one'])
    await settled()
    expect(requests.at(-1)).toMatchObject({
      method: 'PATCH',
      body: {
        revision: 5,
        label: 'Exposure',
        patch: expect.arrayContaining([{ op: 'replace', path: '/finish/e/values/stops', value: 1 }]),
      },
    })
    expect([shot.state, shot.revision, kept.size, held.document.finish.e!.values.stops]).toEqual(['saved', 6, 0, 1])
  })
  it('of a drag is sent once it rests', async () => {
    const shot = await opened()
    for (let i = 1; i <= 20; i++) {
      shot.change('Exposure', stops(i / 10), true)
      await vi.advanceTimersByTimeAsync(16)
    }
    expect(requests.filter(request => request.method === 'PATCH')).toHaveLength(0)
    await vi.advanceTimersByTimeAsync(400)
    expect(requests.filter(request => request.method === 'PATCH')).toHaveLength(1)
    expect(held.document.finish.e!.values.stops).toBe(2)
  })
  it('made while another is under way follows it, one request at a time', async () => {
    const shot = await opened()
    let free = (): void => {}
    slow = new Promise(resolve => {
      free = resolve
    })
    shot.change('Exposure', stops(1))
    shot.change('Exposure', stops(2))
    await settled()
    expect(requests.filter(request => request.method === 'PATCH')).toHaveLength(1)
    slow = undefined
    free()
    await settled()
    expect([held.document.finish.e!.values.stops, held.revision, shot.revision, kept.size]).toEqual([2, 7, 7, 0])
  })
  it('that changes nothing sends nothing', async () => {
    const shot = await opened()
    shot.change('Exposure', stops(0))
    await settled()
    expect(requests.filter(request => request.method === 'PATCH')).toHaveLength(0)
    expect(kept.size).toBe(0)
  })
  it('that the server refuses as invalid is taken back, with its sentence', async () => {
    const shot = await opened()
    refuse = 'stops must be from -10 to 10.'
    shot.change('Exposure', stops(99))
    await settled()
    expect([shot.message, shot.document!.finish.e!.values.stops, shot.state, kept.size]).toEqual([
      refuse,
      0,
      'saved',
      0,
    ])
  })
})

describe('without a server', () => {
  it.each([500, 502, 503])('that answers %d a change waits and goes when it is well again', async status => {
    const shot = await opened()
    failing = status
    shot.change('Exposure', stops(1))
    await settled()
    expect([shot.state, kept.size, shot.document!.finish.e!.values.stops]).toEqual(['waiting', 1, 1])
    expect(shot.message).toMatch(/database/)
    await vi.advanceTimersByTimeAsync(6500)
    expect([shot.state, kept.size]).toEqual(['waiting', 1])
    failing = 0
    await vi.advanceTimersByTimeAsync(2500)
    await settled()
    expect([shot.state, kept.size, held.document.finish.e!.values.stops]).toEqual(['saved', 0, 1])
  })
  it('a browser without room for what is unsaved still saves', async () => {
    const shot = await opened()
    vi.stubGlobal('localStorage', {
      getItem: () => null,
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError')
      },
      removeItem: () => {},
    })
    shot.change('Exposure', stops(2))
    await settled()
    expect([shot.state, held.document.finish.e!.values.stops]).toEqual(['saved', 2])
  })
  it('changes wait, are kept, and go when it is back', async () => {
    const shot = await opened()
    online = false
    shot.change('Exposure', stops(1))
    await settled()
    expect([shot.state, kept.size]).toEqual(['waiting', 1])
    shot.change('Exposure', stops(3))
    await settled()
    online = true
    await vi.advanceTimersByTimeAsync(2500)
    await settled()
    expect([shot.state, shot.message, held.document.finish.e!.values.stops, kept.size]).toEqual(['saved', '', 3, 0])
  })
  it('what a killed page kept comes back when the shot is opened again, even over a newer revision', async () => {
    const shot = await opened()
    online = false
    shot.change('Exposure', stops(1))
    await settled()
    vi.clearAllTimers()
    setActivePinia(createPinia())
    online = true
    elsewhere(document => {
      document.frames.last = 9
    })
    const again = await opened()
    expect(again.message).toMatch(/brought back/)
    await settled()
    expect([held.document.finish.e!.values.stops, held.document.frames.last, kept.size]).toEqual([1, 9, 0])
  })
})

describe('changed elsewhere', () => {
  it('in other values: both are kept', async () => {
    const shot = await opened()
    elsewhere(document => {
      document.frames.last = 48
    })
    shot.change('Exposure', stops(1))
    await settled()
    expect([held.document.finish.e!.values.stops, held.document.frames.last, shot.conflict]).toEqual([1, 48, null])
    expect(shot.document!.frames.last).toBe(48)
  })
  it.each([
    [true, 1],
    [false, -2],
  ] as const)('in the same value it is asked about; mine: %s', async (mine, value) => {
    const shot = await opened()
    elsewhere(stops(-2))
    shot.change('Exposure', stops(1))
    await settled()
    expect(shot.conflict).toMatchObject({ label: 'Exposure', names: ['Exposure'] })
    expect([held.document.finish.e!.values.stops, shot.document!.finish.e!.values.stops]).toEqual([-2, -2])
    shot.settle(mine)
    await settled()
    expect([held.document.finish.e!.values.stops, shot.document!.finish.e!.values.stops, shot.conflict]).toEqual([
      value,
      value,
      null,
    ])
  })
  it('a change to what is no longer there is left out and said so; what else was changed is saved', async () => {
    const shot = await opened()
    elsewhere(document => {
      document.finish = {}
    })
    shot.change('Exposure', document => {
      stops(1)(document)
      document.frames.last = 7
    })
    await settled()
    expect(shot.message).toBe('“Exposure” was deleted elsewhere; what you changed there was left out.')
    expect([shot.conflict, shot.document!.finish, held.document.frames.last]).toEqual([null, {}, 7])
  })
  it('what is changed while one is asked is saved, and what is asked about is kept if the page closes', async () => {
    const shot = await opened()
    elsewhere(stops(-2))
    shot.change('Exposure', stops(1))
    await settled()
    shot.change('Length', document => {
      document.frames.last = 12
    })
    await settled()
    expect([held.document.frames.last, held.document.finish.e!.values.stops, kept.size]).toEqual([12, -2, 1])
    setActivePinia(createPinia())
    const again = await opened()
    expect(again.conflict).toMatchObject({ names: ['Exposure'] })
    again.settle(true)
    await settled()
    expect([held.document.finish.e!.values.stops, kept.size]).toEqual([1, 0])
  })
  it('what is changed while a refused request is under way is not lost', async () => {
    const shot = await opened()
    let free = (): void => {}
    slow = new Promise(resolve => {
      free = resolve
    })
    elsewhere(document => {
      document.frames.last = 48
    })
    shot.change('Exposure', stops(1))
    await settled()
    shot.change('Exposure', stops(3))
    slow = undefined
    free()
    await settled()
    expect([held.document.finish.e!.values.stops, held.document.frames.last]).toEqual([3, 48])
  })
  it('news of a newer revision brings it in; of an older one does nothing', async () => {
    const shot = await opened()
    const before = requests.length
    await shot.heard(5)
    expect(requests).toHaveLength(before)
    elsewhere(stops(4))
    await shot.heard(6)
    expect([shot.document!.finish.e!.values.stops, shot.revision]).toEqual([4, 6])
  })
})

describe('undo', () => {
  it('is there when there is something to undo, and takes the server’s answer', async () => {
    const shot = await opened()
    expect([shot.canUndo, shot.canRedo]).toEqual([true, false])
    await shot.step('undo')
    expect(requests.at(-1)).toMatchObject({ method: 'POST', path: '/api/shots/one/step/undo', body: { revision: 5 } })
    expect([shot.revision, shot.message]).toEqual([6, 'Undone: Exposure'])
  })
  it('saves what is not saved first', async () => {
    const shot = await opened()
    shot.change('Exposure', stops(1), true)
    const step = shot.step('undo')
    await settled()
    await step
    expect(requests.slice(-2).map(request => request.method)).toEqual(['PATCH', 'POST'])
  })
  it('on a revision that is no longer the newest brings the newest in', async () => {
    const shot = await opened()
    elsewhere(stops(4))
    await shot.step('undo')
    expect(shot.document!.finish.e!.values.stops).toBe(4)
  })
  it('pressed twice at once steps twice, each from the revision that the first left', async () => {
    const shot = await opened()
    requests = []
    await Promise.all([shot.step('redo'), shot.step('redo')])
    expect(requests.filter(request => request.method === 'POST').map(request => request.body!.revision)).toEqual([5, 6])
    expect(shot.revision).toBe(7)
  })
})

describe('while an answer is on its way', () => {
  const heldBack = (): (() => void) => {
    let free = (): void => {}
    slow = new Promise(resolve => {
      free = () => {
        slow = undefined
        resolve()
      }
    })
    return free
  }
  it('what is changed after a step was asked for comes after it, and is saved', async () => {
    const shot = await opened()
    const free = heldBack()
    const step = shot.step('undo')
    await settled()
    shot.change('Exposure', stops(3))
    await settled()
    // One at a time
    expect(requests.filter(request => request.method !== 'GET').map(request => request.method)).toEqual(['POST'])
    stops(2)(held.document)
    free()
    await step
    await settled()
    expect([shot.document!.finish.e!.values.stops, held.document.finish.e!.values.stops]).toEqual([3, 3])
    expect([shot.conflict, shot.state, kept.size]).toEqual([null, 'saved', 0])
  })
  it('what is changed while the newest is fetched is laid over it', async () => {
    const shot = await opened()
    elsewhere(document => {
      document.frames.last = 7
    })
    const free = heldBack()
    const news = shot.heard(6)
    await settled()
    // A drag: not sent by itself before the answer is here
    shot.change('Exposure', stops(3), true)
    free()
    await news
    await settled()
    expect([shot.document!.finish.e!.values.stops, shot.document!.frames.last]).toEqual([3, 7])
    expect([held.document.finish.e!.values.stops, shot.state]).toEqual([3, 'saved'])
  })
  it('news that come while something is sent are not forgotten', async () => {
    const shot = await opened()
    // Someone else's comes between ours and its answer
    vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
      const answered = await server(path, init)
      if (init?.method === 'PATCH')
        elsewhere(document => {
          document.frames.last = 7
        })
      return answered
    })
    const free = heldBack()
    shot.change('Exposure', stops(3))
    await settled()
    const news = shot.heard(7)
    free()
    await news
    expect([shot.revision, shot.document!.frames.last]).toEqual([7, 7])
  })
})

describe('things by their ids', () => {
  it('a change made to one is laid on it wherever it stands now', async () => {
    const shot = await opened()
    elsewhere(document => {
      addRow(document.finish, newTreatment('exposure', { stops: 0 }, 'first'), null)
    })
    shot.change('Exposure', stops(1))
    await settled()
    expect(shot.conflict).toBeNull()
    expect(inOrder(held.document.finish).map(({ id, values }) => [id, values.stops])).toEqual([
      ['first', 0],
      ['e', 1],
    ])
  })
  it('what a page of before kept as a patch by numbers is brought to today’s form', async () => {
    const { order: _order, ...e } = held.document.finish.e!
    former = { ...held.document, version: 1, finish: [{ ...e, treatments: undefined }] }
    const { layers } = held.document.build
    former.build = {
      ...held.document.build,
      layers: inOrder(layers).map(({ order: _order, ...layer }) => ({ ...layer, treatments: [] })),
    }
    former.scene = { ...held.document.scene, lights: [] }
    kept.set(
      'northmist/unsaved/one',
      JSON.stringify({ label: 'Old', patch: [{ op: 'replace', path: '/finish/0/values/stops', value: 2 }] }),
    )
    const shot = await opened()
    await settled()
    expect([held.document.finish.e!.values.stops, shot.message, kept.size]).toEqual([
      2,
      'Changes that were not saved when the page closed have been brought back.',
      0,
    ])
  })
  it('what was kept and no longer fits is asked about, not thrown away', async () => {
    const shot = await opened()
    online = false
    shot.change('Exposure', stops(1))
    await settled()
    vi.clearAllTimers()
    online = true
    elsewhere(document => {
      document.finish.e!.values.stops = 4
    })
    setActivePinia(createPinia())
    const again = await opened()
    expect([again.conflict?.label, again.document!.finish.e!.values.stops]).toEqual(['Exposure', 4])
    again.settle(true)
    await settled()
    expect(held.document.finish.e!.values.stops).toBe(1)
  })
})
