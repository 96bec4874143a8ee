// The night shot of the demo: the harbour light rendered into a photograph whose depth is known, with the haar that its
// beams show, the tide in, words on a wall, and drizzle.
import { DEFAULT_PASSES } from '../core/render/passes'
import {
  newDocument,
  newTreatment,
  type AirSettings,
  type Layer,
  type PlateLayer,
  type TreatmentSettings,
} from '../core/shot/document'
import { makeLayer, takePasses } from '../core/shot/layers'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { namesTerm, slipOf } from '../core/shot/slip'
import { ownRender } from '../core/shot/tree'
import { madePasses, photographOf, SIZE, skyOf, type DemoShot } from './demoShot'
import { NIGHT_CAMERA } from './night'
import { HIGH_WATER, STORE } from './nightThings'

export function nightShot(): DemoShot {
  const { width, height } = SIZE
  const document = newDocument(width, height)
  document.view = 'soft'
  document.rate = { numerator: 24000, denominator: 1001 }
  document.plate = photographOf('night harbour.png', SIZE)
  const { layers } = document.build
  ;(layers.plate as PlateLayer).depth = {
    blob: '@night harbour depth.exr',
    name: 'night harbour depth.exr',
    width,
    height,
    passes: ['depth'],
    objects: [],
    materials: [],
    of: '',
    reading: { takes: { depth: [{ layer: 'depth' }] }, depth: { kind: 'inverse' } },
  }
  document.scene.file = { blob: '@harbour light.glb', name: 'harbour light.glb' }
  document.scene.camera = { ...document.scene.camera, ...NIGHT_CAMERA }
  // As the photograph is exposed
  document.scene.environment = skyOf('night.hdr', 256, 1.6)
  // The haar, from behind the nearest roofs on
  document.scene.volumes = rowsOf<AirSettings>([
    {
      ...{ id: 'haar', name: 'haar', on: true, shape: 'box', x: 10, y: -4, z: -92, width: 240, height: 60, depth: 130 },
      ...{
        half: 95,
        colour: [0.9, 0.92, 0.95],
        forward: 0.45,
        noise: 0.5,
        noiseSize: 11,
        seed: 6,
        base: 9,
        halfHeight: 14,
      },
    },
  ])
  document.passes = { ...document.passes, samples: 64, reach: 1, selected: [...DEFAULT_PASSES, 'volume'] }
  const render = ownRender(layers)!
  render.name = 'Harbour light'
  // What the lamps of the quay give the tower, which are in the photograph alone
  render.desk.objects = {
    tower: { exposure: 0.75 },
    band: { exposure: 0.8 },
    footing: { exposure: 0.6 },
    gallery: { exposure: 0.5 },
    railing: { exposure: 0.5 },
  }
  const made = madePasses('harbour light')
  if (made)
    takePasses(document, {
      blob: '@harbour light passes.exr',
      name: 'harbour light passes.exr',
      ...SIZE,
      ...made,
      of: '',
    })
  const add = (layer: Unplaced<Layer>, id: string): void => {
    addRow(layers, { ...layer, id } as Unplaced<Layer>)
  }
  const [wallMiddle, wall] = [(STORE.low[0] + STORE.high[0]) / 2, STORE.high[1]]
  add(
    makeLayer('words', {
      name: 'Words on the store',
      text: 'HALLIN NESS\nICE & SALT',
      font: { name: 'Oswald', files: [{ blob: '@oswald.woff2', name: 'oswald.woff2' }] },
      ...{ put: 'upright', x: wallMiddle, y: 6.85, z: wall, size: 0.52, close: 0.4, weight: 500, tracking: 0.09 },
      ...{ line_height: 1.5, colour: [0.07, 0.1, 0.14], mode: 'multiply', opacity: 0.86 },
    }),
    'words',
  )
  add(
    makeLayer('water', {
      name: 'The tide in the harbour',
      ...{ level: HIGH_WATER, shore: 400, clear: 0.06, water: [0.008, 0.013, 0.017], mirrors: 1 },
      ...{ wave_length: 2.4, wave_steep: 0.02, ripple_length: 0.3, ripple_steep: 0.022, heading: 120, rough: 0.009 },
      ...{ glitter: 0.6, rim: 0.25, rim_dark: 0.35, seed: 5 },
    }),
    'water',
  )
  add(
    makeLayer('fogbank', {
      name: 'Haar over the bay',
      ...{ near: 45, far: 260, colour: [0.085, 0.1, 0.125], dense: 0.22, uneven: 0.6, seed: 3 },
    }),
    'bank',
  )
  add(
    makeLayer('specks', {
      name: 'Drizzle',
      ...{
        density: 9,
        near: 1.6,
        far: 26,
        floor: 1.2,
        size: 1.1,
        sizes: 0.5,
        long: 9,
        soft: 0.8,
        fall: 4.5,
        wind: 1.6,
      },
      ...{
        heading: 70,
        colour: [0.5, 0.56, 0.64],
        other: [0.75, 0.72, 0.66],
        hides: 0.05,
        opacity: 0.35,
        shutter: 0.5,
      },
      mode: 'add',
    }),
    'drizzle',
  )
  const glow = newTreatment('glow', { amount: 0.4, threshold: 1.2, size: 42 }, 'lensglow')
  glow.matte = slipOf(namesTerm(['lens', 'lantern glass', 'lantern bars']))
  document.finish = rowsOf<TreatmentSettings>([
    newTreatment(
      'cdl',
      {
        ...{ slope_r: 1.04, slope_g: 1, slope_b: 1.01, offset_r: -0.003, offset_g: -0.001, offset_b: 0.003 },
        ...{ power_r: 1.08, power_g: 1.05, power_b: 1.01, saturation: 1.08 },
      },
      'look',
    ),
    glow,
    newTreatment('grain', { amount: 0.035, growth: 0.5 }, 'platenoise'),
    newTreatment('vignette', { amount: 0.3, size: 0.52, softness: 520 }, 'corners'),
  ])
  return {
    name: 'Night haar',
    document,
    files: {
      plate: 'night harbour.png',
      depth: 'night harbour depth.exr',
      scene: 'harbour light.glb',
      environment: 'night.hdr',
      passes: 'harbour light passes.exr',
      font: 'oswald.woff2',
      thumbnail: 'night haar.jpg',
    },
    thumbnail: 'night haar.jpg',
  }
}
