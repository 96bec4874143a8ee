// The demo's shots as documents. Blobs are named @file and put in their places when the demo is loaded.
import { namesTerm, slipOf } from '../core/shot/slip'
import { DEFAULT_PASSES } from '../core/render/passes'
import { newDocument, newTreatment, type Layer, type MatteTerm, type TreatmentSettings } from '../core/shot/document'
import { ownRender } from '../core/shot/tree'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import type { Shape } from '../core/shot/schema/drawn'
import { shapeOf } from '../core/shot/drawn'
import { makeLayer } from '../core/shot/layers'
import { madePasses, photographOf, SIZE, skyOf, type DemoShot } from './demoShot'
import { CAMERA } from './house'
import { nightShot } from './nightShot'
import { surveyShot } from './surveyShot'

/** The puddle of the plate, drawn round. */
function puddle(): MatteTerm {
  const points = [
    [300, 690],
    [400, 664],
    [540, 655],
    [690, 652],
    [860, 652],
    [1000, 664],
    [1042, 684],
    [930, 710],
    [760, 722],
    [560, 723],
    [400, 715],
  ].map(([x, y]): { at: [number, number] } => ({ at: [x!, y!] }))
  const shape = { ...shapeOf('puddle', points, true), outer: 10, inner: 8 }
  const shapes: Record<string, Shape> = {}
  addRow(shapes, { ...shape, id: 'puddle' })
  return { kind: 'shape', shapes, join: 'also', on: true, invert: false }
}

function bellHouseShot(): DemoShot {
  const document = newDocument(SIZE.width, SIZE.height)
  document.view = 'soft'
  document.rate = { numerator: 24000, denominator: 1001 }
  document.plate = photographOf('quay.png', SIZE)
  document.scene.file = { blob: '@bell house.glb', name: 'bell house.glb' }
  document.scene.camera = { ...document.scene.camera, ...CAMERA }
  document.scene.environment = skyOf('blue hour.hdr', 512, 1.2)
  document.passes = {
    ...document.passes,
    samples: 128,
    reach: 0.8,
    selected: [...DEFAULT_PASSES, 'through_crypto_object', 'mirrored_crypto_object', 'outline'],
  }
  // The two lamps are told apart on the desk
  document.scene.objects = { 'lamp left': { lightGroup: 'left lamp' }, 'lamp right': { lightGroup: 'right lamp' } }
  const made = madePasses('bell house')
  if (made)
    document.passes.file = { blob: '@bell house passes.exr', name: 'bell house passes.exr', ...SIZE, ...made, of: '' }
  const render = ownRender(document.build.layers)!
  render.name = 'Bell house render'
  render.occlusion = 0.55
  const warmer = newTreatment(
    'cdl',
    {
      slope_r: 1.12,
      slope_g: 1.04,
      slope_b: 0.92,
      offset_r: 0,
      offset_g: 0,
      offset_b: 0,
      power_r: 1,
      power_g: 1,
      power_b: 1,
      saturation: 1.08,
    },
    'bellgrade',
  )
  warmer.matte = slipOf(namesTerm(['bell']))
  addRow(render.treatments, warmer)
  // What was rendered gets the evening's air, the lens and the noise that the photograph has already
  for (const line of [
    newTreatment('fog', { half: 110, thinning: 3, colour: [0.12, 0.14, 0.18], most: 0.9 }, 'evening'),
    newTreatment('focus', { distance: 8, fNumber: 2, factor: 2, most: 8, blades: 7 }, 'bellsharp'),
    newTreatment('grain', { amount: 0.04, growth: 0.5 }, 'platenoise'),
  ])
    addRow(render.treatments, line)
  addRow(document.build.layers, {
    ...makeLayer('figure', {
      name: 'Two on the quay',
      picture: {
        blob: '@figures on the quay.png',
        name: 'figures on the quay.png',
        encoding: 'srgb',
        alpha: 'straight',
        width: 450,
        height: 720,
        facts: { format: 'png', bits: 16, float: false, alpha: 'straight' },
      },
      // The taller of both, by where its feet are in the picture
      ...{ x: -0.62, z: -8.3, height: 1.8, foot_across: 0.52, foot_down: 0.956, head_down: 0.11 },
      // Wet setts mirror a little, the puddle as it is
      ...{ shadow: 1.2, mirror: 1, mirror_hides: 0.75, mirror_rough: 0.015 },
      wet: slipOf(puddle()),
      treatments: rowsOf<TreatmentSettings>([newTreatment('saturation', { amount: 0.8 }, 'calmer')]),
    }),
    id: 'people',
  } as Unplaced<Layer>)
  // Light glows round the two lamps, and round nothing else
  const glowOfLamps = newTreatment('glow', { amount: 0.3, threshold: 1, size: 34 }, 'lampglow')
  glowOfLamps.matte = slipOf(namesTerm(['lamp left', 'lamp right']))
  render.desk.everything = { reflection: 1.1 }
  render.desk.objects = { bell: { reflection: 1.35, exposure: 0.35 }, 'glass panes': { reflection: 1.25 } }
  document.finish = rowsOf<TreatmentSettings>([
    newTreatment('exposure', { stops: -0.1 }, 'expose'),
    newTreatment(
      'cdl',
      {
        slope_r: 1.03,
        slope_g: 1,
        slope_b: 1.02,
        offset_r: -0.002,
        offset_g: 0,
        offset_b: 0.003,
        power_r: 1.05,
        power_g: 1.04,
        power_b: 1.0,
        saturation: 1.06,
      },
      'look',
    ),
    glowOfLamps,
    newTreatment('vignette', { amount: 0.32, size: 0.5, softness: 520 }, 'corners'),
  ])
  return {
    name: 'Bell house',
    document,
    files: {
      plate: 'quay.png',
      scene: 'bell house.glb',
      environment: 'blue hour.hdr',
      passes: 'bell house passes.exr',
      people: 'figures on the quay.png',
      thumbnail: 'bell house.jpg',
    },
    thumbnail: 'bell house.jpg',
  }
}

export const shotsOfDemo = (): [DemoShot, DemoShot, DemoShot] => [bellHouseShot(), surveyShot(), nightShot()]
