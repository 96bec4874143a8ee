// Speed of kinds of layers in the demo's bell house at 1280x720 with two workers: the first picture after one is added,
// and a handle of it dragged at half size.
import { displayCodes } from '../core/compose/deliver'
import { Evaluator } from '../core/compose/evaluate'
import { setDeskNumber } from '../core/shot/desk'
import { bringElement } from '../core/shot/elements'
import { bringFigure } from '../core/shot/figures'
import { addLayer, makeLayer } from '../core/shot/layers'
import type { Row } from '../core/declare/field'
import type { Unplaced } from '../core/shot/rows'
import { speckValues } from '../core/shot/specks'
import type { Layer, PictureLayer, ShotDocument, SpecksLayer, WaterLayer } from '../core/shot/document'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { addStuck, drawPicture } from '../core/shot/stuck'
import { bringWords } from '../core/shot/words'
import { projectRoot } from '../host/root'
import { demoFile } from '../host/demofile'
import { startEngine, type Engine } from '../host/engine'
import { bellHouse } from './benchBuild'
import { middle, type Figure } from './figures'

const FONT = 'node_modules/@fontsource-variable/source-serif-4/files/source-serif-4-latin-wght-normal.woff2'
const fonts = new Map<string, Uint8Array>()

const BELL = { kind: 'thing', name: 'bell' } as const
interface Tried {
  /** Puts it into the shot. */
  add: (document: ShotDocument) => void
  /** Where a hand has brought it, 0..1 of its way. */
  drag: (document: ShotDocument, share: number) => void
}
const KINDS: Record<string, Tried> = {
  // One thing's contrast on the desk, and one lamp on it
  desk: {
    add: document => {
      setDeskNumber(document, 'render', BELL, { kind: 'row', row: 'contrast' }, 1.2)
      setDeskNumber(document, 'render', BELL, { kind: 'row', row: 'warmth' }, 40)
    },
    drag: (document, share) => {
      setDeskNumber(document, 'render', BELL, { kind: 'row', row: 'contrast' }, 1 + share)
    },
  },
  lamp: {
    add: document => {
      const [group] = document.passes.file!.lights!
      setDeskNumber(document, 'render', BELL, { kind: 'light', group: group! }, 0.5)
    },
    drag: (document, share) => {
      const [group] = document.passes.file!.lights!
      setDeskNumber(document, 'render', BELL, { kind: 'light', group: group! }, 1 + share)
    },
  },
  figure: {
    add: document => {
      const { people } = document.build.layers
      delete document.build.layers.people
      const made = bringFigure(document, (people as PictureLayer).picture, 1, 'people')
      Object.assign(made, { mirror: 1, mirror_rough: 0.1 })
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.people!, { x: -1 + share, z: -8 - share * 2 })
    },
  },
  // Ten copies of a picture with alpha, thick, between and before the things of the render
  element: {
    add: document => {
      const { picture } = document.build.layers.people as PictureLayer
      const made = bringElement(document, picture, 1, 'element')
      const region = { copies: 10, spread: 'in a region', wide: 6, tall: 2, deep: 4, turns: 20, sizes: 0.3 } as const
      Object.assign(made, { x: 0, y: 1.4, z: -7, size: 1, thickness: 1, lit: 0.5, ...region })
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.element!, { x: -1 + share, z: -8 + share * 2 })
    },
  },
  // A picture drawn on footage’s ground, on another frame than its own
  stuck: {
    add: document => {
      const { picture } = document.build.layers.people as PictureLayer
      const id = addStuck(document, 2)
      Object.assign(document.build.layers[id]!, { onto: 'the ground', y: 0, close: 0.1 })
      document.build.layers[drawPicture(document, id, picture, 2)]!.name = 'drawn'
    },
    drag: (document, share) => {
      const drawn = Object.values(document.build.layers).find(({ name }) => name === 'drawn')!
      Object.assign(drawn, { x: 400 + share * 400 })
    },
  },
  // Two lines on the ground, letters half a metre tall
  words: {
    add: document => {
      const file = readFileSync(join(projectRoot(), FONT))
      fonts.set('font', new Uint8Array(file))
      const font = { name: 'Source Serif', files: [{ blob: '0font', name: 'font' }] }
      const id = bringWords(document, font, 1, 'Hallin Ness harbour\nno landing at low water')
      const layer = document.build.layers[id] as Row
      delete document.build.layers[id]
      Object.assign(document.build.layers, { words: { ...layer, id: 'words' } })
      Object.assign(document.build.layers.words!, { put: 'on the ground', y: 0, z: -6, size: 0.5 })
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.words!, { x: -1 + share, z: -7 + share * 2 })
    },
  },
  accent: {
    add: document => {
      addLayer(document, {
        ...makeLayer('accent', { of: 'render', x: -1.8, y: 0.3, z: -5.6 }),
        id: 'accent',
      } as Unplaced<Layer>)
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.accent!, { x: -2 + share })
    },
  },
  underwater: {
    add: document => {
      addLayer(document, { ...makeLayer('underwater'), id: 'under' } as Unplaced<Layer>)
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.under!, { level: 3 + share })
    },
  },
  // Over the lower half of the frame
  water: {
    add: document => {
      addLayer(document, { ...makeLayer('water', { level: 0.14, shore: 14 }), id: 'water' } as Unplaced<WaterLayer>)
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.water!, { level: 0.1 + share * 0.1 })
    },
  },
  specks: {
    add: document => {
      addLayer(document, { ...makeLayer('specks', speckValues('snow')), id: 'snow' } as Unplaced<SpecksLayer>)
    },
    drag: (document, share) => {
      Object.assign(document.build.layers.snow!, { size: 4 + share * 4 })
    },
  },
}

async function shown(engine: Engine, evaluator: Evaluator, document: ShotDocument, shrink: 1 | 2): Promise<number> {
  const start = performance.now()
  displayCodes(
    engine.pool,
    await evaluator.evaluate({ document, frame: 1, shrink, show: { kind: 'build' } }),
    document.view,
  )
  return performance.now() - start
}

/** A picture that is 33 ms away is one of 30 a second. */
const THIRTIETH = 1000 / 30

export async function layerFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  for (const [kind, { add, drag }] of Object.entries(KINDS)) {
    if (!wanted(`layers.${kind}`)) continue
    const engine = await startEngine(2)
    const evaluator = new Evaluator(engine.pool, async blob => fonts.get(blob.slice(1)) ?? demoFile(blob.slice(1)))
    const before: ShotDocument = { ...bellHouse(), frame: { width: 1280, height: 720 } }
    const copied = await shown(engine, evaluator, before, 1)
    const document = structuredClone(before)
    add(document)
    const first = await shown(engine, evaluator, document, 1)
    await shown(engine, evaluator, document, 2)
    const times: number[] = []
    for (let i = 0; i < 120; i++) {
      const moved = structuredClone(document)
      drag(moved, i / 120)
      const took = await shown(engine, evaluator, moved, 2)
      if (i >= 40) times.push(took)
    }
    engine.stop()
    const dragged = middle(times)
    out.push(
      {
        name: `layers.${kind}.first`,
        value: first,
        unit: 'ms',
        against: 'the shot without it, from its files',
        ratio: copied / first,
      },
      {
        name: `layers.${kind}.drag`,
        value: dragged,
        unit: 'ms',
        against: 'a thirtieth of a second (half size)',
        ratio: THIRTIETH / dragged,
      },
    )
  }
  return out
}
