// A shot's passes rendered while the shutter is open: what moves by keys, things and camera, and data that stays.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { readExr } from '../../core/formats/exr/exr'
import { halfToFloat } from '../../core/formats/exr/half'
import { newDocument, type AddedObject, type ShotDocument } from '../../core/shot/document'
import { rowsOf } from '../../core/shot/rows'
import { passStamps } from '../../core/shot/stamp'
import { momentsAt } from '../../core/render/shutter'
import { BlobStore } from '../../host/blobs'
import { startEngine, type Engine } from '../../host/engine'
import { renderPasses } from '../../host/work'
import { documentFaults } from '../../shared/validate'
import { scratchFolder } from '../python'

const [WIDTH, HEIGHT] = [48, 32]
const keyed = (step: number): never =>
  ({ keys: [0, 2].map(frame => ({ frame, value: (frame - 1) * step, ease: 'linear' })) }) as never
const SHUTTER = { shutter: 180, from: -90, moments: 8, sharpData: true }

describe('the shutter of a render', () => {
  let engine: Engine
  beforeAll(async () => {
    engine = await startEngine(1)
  })
  afterAll(() => engine.stop())
  const shot = (shutter?: ShotDocument['passes']['shutter']): ShotDocument => {
    const document = newDocument(WIDTH, HEIGHT)
    document.scene.added = rowsOf<AddedObject>([
      {
        ...{ id: 'crate', name: 'crate', kind: 'standin', shape: 'box', points: [] },
        ...{ width: 1, height: 1, depth: 1, colour: [0.5, 0.4, 0.3], roughness: 0.6 },
      },
    ])
    document.scene.objects = { crate: { position: [0, 1.5, -5], role: 'object' } }
    document.passes.selected = [
      'alpha',
      'depth',
      'normal',
      'crypto_object',
      'motion_forward',
      'motion_back',
      'rest',
      'albedo',
      'beauty',
    ]
    document.passes.samples = 64
    if (shutter) document.passes.shutter = shutter
    return document
  }
  async function planes(document: ShotDocument): Promise<Record<string, number[]>> {
    expect(documentFaults(document)).toEqual([])
    const store = new BlobStore(scratchFolder())
    const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
    const { blob } = await renderPasses(engine, evaluator, store, document, 1, {
      progress: () => {},
      cancelled: () => false,
    })
    return Object.fromEntries(
      readExr(await store.get(blob)).channels.map(({ name, data }) => [
        name,
        data instanceof Uint16Array ? [...data].map(halfToFloat) : [...data],
      ]),
    )
  }
  /** Sum and spread across of what is covered. */
  const covered = (alpha: readonly number[]): { sum: number; spread: number } => {
    const sum = alpha.reduce((total, value) => total + value, 0)
    const mean = alpha.reduce((total, value, i) => total + (value * (i % WIDTH)) / sum, 0)
    return { sum, spread: alpha.reduce((total, value, i) => total + (value * ((i % WIDTH) - mean) ** 2) / sum, 0) }
  }
  it('lies evenly about its moments', () => {
    expect(momentsAt({ shutter: 180, moments: 4, from: 0 }, 10)).toEqual([10.0625, 10.1875, 10.3125, 10.4375])
  })
  it.each(['a thing', 'the camera'])(
    'smears what goes by keys (%s) over its way; data stays that of the frame, or does not',
    async who => {
      const going = (document: ShotDocument): ShotDocument => {
        if (who === 'a thing') document.scene.objects.crate!.position = [keyed(1.5), 1.5, -5] as never
        else document.scene.camera.x = keyed(1.5)
        return document
      }
      const still = await planes(going(shot()))
      const open = await planes(going(shot(SHUTTER)))
      const [a, b] = [covered(still.A!), covered(open.A!)]
      // Metres across to pixels at the front of the crate, 4.5 m away
      const { focalLength, sensorWidth } = shot().scene.camera
      const way = (0.75 * (focalLength as number) * WIDTH) / (sensorWidth as number) / 4.5
      expect(Math.abs(b.sum / a.sum - 1)).toBeLessThan(0.03)
      expect(Math.abs((b.spread - a.spread) / (way ** 2 / 12) - 1)).toBeLessThan(0.12)
      const data = Object.keys(still).filter(name => !/^A$|albedo/.test(name))
      expect(data.length).toBeGreaterThan(10)
      for (const name of data) expect(open[name], name).toEqual(still[name])
      const soft = await planes(going(shot({ ...SHUTTER, sharpData: false })))
      expect(soft['normal.Z']).not.toEqual(still['normal.Z'])
      // It still says that it goes half a metre in three frames' thirds: as far as at the frame itself
      const most = (all: Record<string, number[]>): number => Math.max(...all['motion_forward.X']!.map(Math.abs))
      expect(Math.abs(most(soft) / most(still) - 1)).toBeLessThan(0.1)
    },
  )
  it('changes what passes are made of: they are out of date', () => {
    const document = shot()
    const before = passStamps(document, 1)
    document.passes.shutter = SHUTTER
    expect(passStamps(document, 1).alpha).not.toBe(before.alpha)
  })
})
