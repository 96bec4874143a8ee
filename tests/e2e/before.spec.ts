// Shots of an earlier version in the database, with what can be undone in them and what a page of then had not saved.
import jsonPatch, { type Operation } from 'fast-json-patch'
import pg from 'pg'
import { newDocument, newTreatment } from '../../core/shot/document'
import { rowsOf, type Unplaced } from '../../core/shot/rows'
import type { Row } from '../../core/declare/field'
import { at, documentOf, expect, listed, saved, test } from './stage'

/** The layers and the desk of a new shot as versions 1 to 3 had them. */
const laid = { on: true, opacity: 1, mode: 'over' }
const LAYERS = [
  { ...laid, id: 'plate', kind: 'plate', name: 'Plate' },
  { ...laid, id: 'render', kind: 'render', name: 'Render', shadow: 1, occlusion: 0 },
]
const DESK = { everything: {}, objects: {} }
/** A document as version 1 had it. */
function ofVersion1(finish: ReturnType<typeof newTreatment>[]): object {
  const now = newDocument(240, 160)
  return {
    ...now,
    version: 1,
    finish,
    scene: { ...now.scene, lights: [] },
    build: { desk: DESK, layers: LAYERS.map(layer => ({ ...layer, treatments: [] })) },
  }
}
const exposure = (stops: number) => newTreatment('exposure', { stops }, 'e')
const calmer = newTreatment('saturation', { amount: 0.5 }, 's')

test('open as they were; undo and redo go on through all that was done before; unsaved work of then comes back', async ({
  page,
  stage,
}) => {
  const states = [[exposure(0)], [exposure(1)], [calmer, exposure(1)], [exposure(1)]].map(ofVersion1)
  const client = new pg.Client({ connectionString: stage.databaseUrl })
  await client.connect()
  await client.query('insert into shots (id, name, document, revision, cursor) values ($1, $2, $3, 9, 2)', [
    'old1',
    'of before',
    JSON.stringify(states[2]),
  ])
  for (let i = 1; i < states.length; i++) {
    const between = (a: object, b: object): string => JSON.stringify(jsonPatch.compare(a, b) satisfies Operation[])
    const [before, after] = [states[i - 1]!, states[i]!]
    await client.query(
      'insert into changes (shot_id, sequence, label, forward, backward) values ($1, $2, $3, $4, $5)',
      ['old1', i, `change ${i}`, between(before, after), between(after, before)],
    )
  }
  // A second one, whose history is damaged
  await client.query('insert into shots (id, name, document, revision, cursor) values ($1, $2, $3, 9, 1)', [
    'old2',
    'with a gap',
    JSON.stringify(states[1]),
  ])
  const broken = JSON.stringify([{ op: 'replace', path: '/finish/7/on', value: true }])
  await client.query('insert into changes (shot_id, sequence, label, forward, backward) values ($1, 1, $2, $3, $3)', [
    'old2',
    'lost',
    broken,
  ])
  await client.end()
  await stage.kill()
  await stage.start()

  const finish = async (id = 'old1'): Promise<[string, number][]> =>
    listed((await documentOf(page, stage, id)).document.finish).map(({ id, values }) => [
      id,
      values.stops ?? values.amount,
    ])
  expect(await finish()).toEqual([
    ['s', 0.5],
    ['e', 1],
  ])
  const kept = {
    label: 'Exposure',
    patch: [
      { op: 'test', path: '/finish/0/id', value: 's' },
      { op: 'replace', path: '/finish/1/values/stops', value: 3 },
    ],
  }
  // A page of before that is still open is not let on, and keeps its change
  const late = await page.request.patch(`${stage.address}/api/shots/old1`, { data: { revision: 9, ...kept } })
  expect([late.status(), (await late.json()).message]).toEqual([503, expect.stringMatching(/older than the server/)])
  await page.addInitScript(text => {
    if (!sessionStorage.getItem('once')) localStorage.setItem('northmist/unsaved/old1', text)
    sessionStorage.setItem('once', 'yes')
  }, JSON.stringify(kept))
  await page.goto(`${stage.address}/shot/old1?station=finish`)
  await at(page, 'ready').waitFor()
  await expect(page.getByText('have been brought back')).toBeVisible()
  await saved(page)
  expect(await finish()).toEqual([
    ['s', 0.5],
    ['e', 3],
  ])
  const step = async (direction: string): Promise<[string, number][]> => {
    const { revision } = await documentOf(page, stage, 'old1')
    await page.request.post(`${stage.address}/api/shots/old1/step/${direction}`, { data: { revision } })
    return finish()
  }
  expect(await step('undo')).toEqual([
    ['s', 0.5],
    ['e', 1],
  ])
  expect(await step('undo')).toEqual([['e', 1]])
  expect(await step('undo')).toEqual([['e', 0]])
  expect(await step('redo')).toEqual([['e', 1]])

  // Undo that ends there says so
  expect(await finish('old2')).toEqual([['e', 1]])
  await page.goto(`${stage.address}/shot/old2?station=finish`)
  await at(page, 'ready').waitFor()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('What was done before cannot be undone')).toBeVisible()
  expect(await finish('old2')).toEqual([['e', 1]])
})

test('a shot of version 2 has mattes of names; unsaved work of then is of the shot of today', async ({
  page,
  stage,
}) => {
  const now = newDocument(240, 160)
  const matte = { names: ['bell'], of: 'objects', invert: false }
  const line = { ...exposure(1), order: 'a0', matte }
  const client = new pg.Client({ connectionString: stage.databaseUrl })
  await client.connect()
  await client.query('insert into shots (id, name, document, revision, cursor) values ($1, $2, $3, 4, 1)', [
    'two',
    'of version 2',
    JSON.stringify({
      ...now,
      version: 2,
      build: { desk: DESK, layers: rowsOf(LAYERS.map(layer => ({ ...layer, treatments: {} })) as Unplaced<Row>[]) },
      finish: { e: line },
    }),
  ])
  const change = (value: object | null): string =>
    JSON.stringify([{ op: 'replace', path: '/finish/e/matte', value }] satisfies Operation[])
  await client.query('insert into changes (shot_id, sequence, label, forward, backward) values ($1, 1, $2, $3, $4)', [
    'two',
    'a matte',
    change(matte),
    change(null),
  ])
  await client.end()
  await stage.kill()
  await stage.start()
  const matteOf = async () => (await documentOf(page, stage, 'two')).document.finish.e.matte
  // A slip of one line today
  const slip = (held: object): object => ({
    terms: { a: { id: 'a', order: 'a0', join: 'also', on: true, kind: 'names', ...held } },
    refine: {},
    invert: false,
  })
  expect(await matteOf()).toEqual(slip(matte))
  // What a page of then had not saved: another matte, as they were
  const after = { names: ['roof'], of: 'objects', invert: true }
  const kept = {
    version: 2,
    label: 'Matte',
    changes: [
      { path: ['finish', 'e', 'matte', 'names'], before: ['bell'], after: ['roof'] },
      { path: ['finish', 'e', 'matte', 'invert'], before: false, after: true },
    ].map(each => ({ ...each, thing: { path: ['finish', 'e'], name: 'Exposure' } })),
  }
  await page.addInitScript(text => {
    if (!sessionStorage.getItem('once')) localStorage.setItem('northmist/unsaved/two', text)
    sessionStorage.setItem('once', 'yes')
  }, JSON.stringify(kept))
  await page.goto(`${stage.address}/shot/two?station=finish`)
  await at(page, 'ready').waitFor()
  await expect(page.getByText('have been brought back')).toBeVisible()
  await saved(page)
  expect(await matteOf()).toEqual(slip(after))
  const { revision } = await documentOf(page, stage, 'two')
  const step = (at: number) => page.request.post(`${stage.address}/api/shots/two/step/undo`, { data: { revision: at } })
  expect((await step(revision)).status()).toBe(200)
  expect(await matteOf()).toEqual(slip(matte))
  expect((await step(revision + 1)).status()).toBe(200)
  expect(await matteOf()).toBeNull()
})

test('a shot of version 3 with ink: its layers stand apart, and what was done to them before is undone', async ({
  page,
  stage,
}) => {
  const now = newDocument(240, 160)
  const ink = { strength: 0.5, colour: [0, 0, 0], bite: 0 }
  const old = (shadow: number): object => ({
    ...now,
    version: 3,
    build: {
      desk: { ...DESK, everything: { reflection: 2 } },
      layers: rowsOf(
        LAYERS.map(layer => ({
          ...layer,
          treatments: {},
          ...(layer.kind === 'render' ? { shadow, ink, air: 0.5 } : {}),
        })) as Unplaced<Row>[],
      ),
    },
  })
  const client = new pg.Client({ connectionString: stage.databaseUrl })
  await client.connect()
  await client.query('insert into shots (id, name, document, revision, cursor) values ($1, $2, $3, 4, 1)', [
    'three',
    'of version 3',
    JSON.stringify(old(0.25)),
  ])
  const change = (value: number): string =>
    JSON.stringify([{ op: 'replace', path: '/build/layers/render/shadow', value }] satisfies Operation[])
  await client.query('insert into changes (shot_id, sequence, label, forward, backward) values ($1, 1, $2, $3, $4)', [
    'three',
    'shadow of Render',
    change(0.25),
    change(1),
  ])
  await client.end()
  await stage.kill()
  await stage.start()
  const layers = async () => (await documentOf(page, stage, 'three')).document.build.layers
  expect((await layers())['render-shadow']).toMatchObject({ kind: 'shadow', amount: 0.25, of: 'render' })
  expect((await layers()).render).toMatchObject({ within: 'render-group', desk: { everything: { reflection: 2 } } })
  // What a page of then had not saved
  const kept = {
    version: 3,
    label: 'air of Render',
    changes: [
      {
        path: ['build', 'layers', 'render', 'air'],
        before: 0.5,
        after: 0.75,
        thing: { path: ['build', 'layers', 'render'], name: 'Render' },
      },
    ],
  }
  await page.addInitScript(text => {
    if (!sessionStorage.getItem('once')) localStorage.setItem('northmist/unsaved/three', text)
    sessionStorage.setItem('once', 'yes')
  }, JSON.stringify(kept))
  await page.goto(`${stage.address}/shot/three?station=build`)
  await at(page, 'ready').waitFor()
  await expect(page.getByText('have been brought back')).toBeVisible()
  await saved(page)
  expect((await layers())['render-air']).toMatchObject({ amount: 0.75 })
  await expect(at(page, 'layer-Ink')).toBeVisible()
  const { revision } = await documentOf(page, stage, 'three')
  const step = (at: number) =>
    page.request.post(`${stage.address}/api/shots/three/step/undo`, { data: { revision: at } })
  expect((await step(revision)).status()).toBe(200)
  expect((await layers())['render-air']).toMatchObject({ amount: 0.5 })
  expect((await step(revision + 1)).status()).toBe(200)
  expect((await layers())['render-shadow']).toMatchObject({ amount: 1 })
})
