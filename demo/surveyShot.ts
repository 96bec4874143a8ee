// The moving shot of the demo: footage with its track, the balloon coming out of the fog, smoke and spray on points of
// the breakwater.
import {
  newDocument,
  newTreatment,
  type ElementLayer,
  type Layer,
  type PictureReference,
  type ShotDocument,
  type TreatmentSettings,
} from '../core/shot/document'
import { makeLayer, takePasses } from '../core/shot/layers'
import { ownRender } from '../core/shot/tree'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { useTrack } from '../core/shot/track'
import { cameraAt } from '../core/shot/scene'
import type { Key } from '../core/time/curve'
import { project } from '../core/match/project'
import type { ClipTiming } from '../core/shot/schema/picture'
import { plainTiming } from '../core/time/retime'
import type { Vector3 } from '../core/scene/vector'
import { balloonPlace } from './balloon'
import { madePasses, type DemoShot } from './demoShot'
import { SURVEY, surveyTrack } from './shore'

/**
 * A clip of the demo before it is one: its video is decoded when the demo is loaded, and its timing laid over what is
 * found.
 */
function clip(
  file: string,
  width: number,
  height: number,
  alpha: PictureReference['alpha'],
  timing: Partial<ClipTiming> = {},
): PictureReference {
  return {
    blob: `@clip:${file}`,
    name: file,
    encoding: 'rec709',
    alpha,
    width,
    height,
    clip: {
      count: SURVEY.frames,
      rate: SURVEY.rate,
      timing: { ...plainTiming(SURVEY.frames), ...timing },
      pixelAspect: { numerator: 1, denominator: 1 },
      first: 1,
      gaps: 0,
    },
  }
}

/** A mark on the balloon's skin, drawn on one frame: it turns with the balloon, and comes out of the haze with it. */
function stickMark({ scene, build }: ShotDocument): void {
  const { width, height } = SURVEY
  const drawnOn = 40
  const camera = cameraAt(scene.camera, drawnOn)
  const { place } = balloonPlace(drawnOn - 1)
  const seen = (up: number) => project(camera, width / height, [place[0], place[1] + up, place[2]])
  const [foot, head] = [seen(6), seen(8.1)]
  const add = (layer: Unplaced<Layer>, id: string): void => {
    addRow(build.layers, { ...layer, id } as Unplaced<Layer>)
  }
  add(makeLayer('stuck', { name: 'Survey mark', of: 'render', placed: drawnOn, appears: 14, opacity: 0.88 }), 'mark')
  add(
    makeLayer('words', {
      name: 'HN 7',
      text: 'HN 7',
      within: 'mark',
      font: { name: 'Oswald', files: [{ blob: '@oswald.woff2', name: 'oswald.woff2' }] },
      ...{ put: 'on the picture', across: foot.u * width, down: foot.v * height, letters: (foot.v - head.v) * height },
      ...{ weight: 600, tracking: 0.04, colour: [0.03, 0.045, 0.06] },
    }),
    'letters',
  )
}

/** What the shot needs of its render: light, where it is, what belongs to what, places on the thing for what is stuck on it. */
const SURVEY_PASSES = ['beauty', 'alpha', 'diffuse_direct', 'shadow', 'albedo', 'depth', 'rest', 'object_id']
/** The passes of a frame as a file of the demo. */
export const surveyPasses = (frame: number): string => `survey passes ${String(frame).padStart(2, '0')}.exr`

export function surveyShot(): DemoShot {
  const { width, height, frames } = SURVEY
  const document = newDocument(width, height)
  const track = surveyTrack()
  document.view = 'soft'
  document.rate = { ...SURVEY.rate }
  document.frames = { first: 1, last: frames }
  document.plate = clip('survey.mp4', width, height, 'none')
  document.scene.file = { blob: '@survey balloon.glb', name: 'survey balloon.glb' }
  document.scene.environment = {
    blob: '@haar.hdr',
    name: 'haar.hdr',
    encoding: 'linear',
    alpha: 'none',
    width: 256,
    height: 128,
    turn: 0,
    stops: -0.2,
    seen: false,
  }
  useTrack(document, { blob: '@survey.track.json', name: 'survey.track.json' }, track, 1)
  // The balloon's parts travel together, key by key
  const parts = ['balloon', 'lines', 'basket', 'instrument', 'mooring line']
  const keys = (pick: (i: number) => number): { keys: Key[] } => ({
    keys: Array.from({ length: 13 }, (_, k) => {
      const i = Math.round((k * 47) / 12)
      return { frame: i + 1, value: Math.round(pick(i) * 1e4) / 1e4, ease: 'linear' as const }
    }),
  })
  for (const part of parts)
    document.scene.objects[part] = {
      group: 'balloon',
      position: ([0, 1, 2] as const).map(k => keys(i => balloonPlace(i).place[k])) as never,
      rotation: ([0, 1, 2] as const).map(k => keys(i => balloonPlace(i).turn[k])) as never,
    }
  /** An element that stands on a place by its lower edge, so many metres tall. */
  const element = (
    id: string,
    name: string,
    picture: PictureReference,
    [x, y, z]: Vector3,
    size: number,
    change: Partial<ElementLayer> = {},
  ): Unplaced<ElementLayer> => ({
    ...(makeLayer('element', { name, picture, x, y, z, size, mode: 'screen' }) as ElementLayer),
    ...{ spread: 'on the ground', wide: 0, deep: 0, id },
    ...change,
  })
  for (const made of [
    element(
      'smoke',
      'Smoke at the beacon',
      clip('smoke.mp4', 320, 240, 'none', { speed: 0.5, blend: true, ends: 'mirror' }),
      [5.4, 0.6, -70],
      9.65,
      { opacity: 0.5, thickness: 3 },
    ),
    element(
      'spray',
      'Spray on the end',
      clip('spray.mp4', 320, 240, 'none', { start: -2, ends: 'nothing' }),
      [9.6, -2.15, -67.5],
      6.02,
      { opacity: 0.85 },
    ),
    element(
      'spray2',
      'Spray farther in',
      clip('spray.mp4', 320, 240, 'none', { start: 12, ends: 'nothing' }),
      [-12.5, -2.1, -67.8],
      4.62,
      { opacity: 0.7 },
    ),
    element(
      'spray3',
      'Spray, a small one',
      clip('spray.mp4', 320, 240, 'none', { start: 22, from: 4, ends: 'nothing' }),
      [1.5, -2.05, -67.8],
      3.41,
      { opacity: 0.6 },
    ),
  ])
    addRow(document.build.layers, made)
  document.passes = { ...document.passes, samples: 20, bounces: 4, selected: [...SURVEY_PASSES] }
  const render = ownRender(document.build.layers)!
  render.name = 'Balloon'
  // Out of the bank by and by: what it has before it thins
  render.opacity = {
    keys: [
      { frame: 1, value: 0, ease: 'smooth' },
      { frame: 8, value: 0.06, ease: 'smooth' },
      { frame: 36, value: 0.9, ease: 'smooth' },
      { frame: 48, value: 0.97, ease: 'smooth' },
    ],
  }
  addRow(render.treatments, newTreatment('saturation', { amount: 0.85 }, 'hazier'))
  const made = madePasses('survey')
  const frameFiles = Object.fromEntries(
    Array.from({ length: made ? frames : 0 }, (_, i) => [`passes ${i + 1}`, surveyPasses(i + 1)]),
  )
  if (made) {
    const blobs = Object.values(frameFiles).map(name => `@${name}`)
    const name = 'survey passes'
    takePasses(document, { ...made, blob: blobs[0]!, name, width, height, of: '', frames: { first: 1, blobs } })
  }
  stickMark(document)
  document.finish = rowsOf<TreatmentSettings>([
    newTreatment(
      'cdl',
      {
        slope_r: 1.02,
        slope_g: 1,
        slope_b: 1.03,
        offset_r: -0.004,
        offset_g: -0.003,
        offset_b: 0.002,
        power_r: 1.12,
        power_g: 1.11,
        power_b: 1.08,
        saturation: 1.1,
      },
      'look',
    ),
    newTreatment('vignette', { amount: 0.28, size: 0.52, softness: 460 }, 'corners'),
  ])
  return {
    name: 'Survey balloon',
    document,
    files: {
      scene: 'survey balloon.glb',
      environment: 'haar.hdr',
      track: 'survey.track.json',
      ...frameFiles,
      font: 'oswald.woff2',
      thumbnail: 'survey balloon.jpg',
    },
    thumbnail: 'survey balloon.jpg',
  }
}
