// The moving shot of the demo: footage with its track, the balloon coming out of the fog, smoke and spray on points of
// the breakwater.
import {
  newDocument,
  newTreatment,
  type ElementLayer,
  type PictureLayer,
  type PictureReference,
  type ShotDocument,
  type TreatmentSettings,
} from '../core/shot/document'
import { makeLayer } from '../core/shot/layers'
import { addRow, rowsOf, type Unplaced } from '../core/shot/rows'
import { useTrack } from '../core/shot/track'
import type { Key } from '../core/time/curve'
import type { ClipTiming } from '../core/shot/schema/picture'
import { plainTiming } from '../core/time/retime'
import type { Vector3 } from '../core/scene/vector'
import { balloonPlace } from './balloon'
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

export function surveyShot(): {
  name: string
  document: ShotDocument
  files: Record<string, string>
  thumbnail: string
} {
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
  const layer = (
    id: string,
    name: string,
    picture: PictureReference,
    change: Partial<PictureLayer>,
  ): Unplaced<PictureLayer> => ({
    id,
    kind: 'picture',
    name,
    on: true,
    opacity: 1,
    mode: 'over',
    treatments: {},
    picture,
    distance: 90,
    x: width / 2,
    y: height / 2,
    scale: 1,
    rotation: 0,
    ...change,
  })
  const balloon = layer('balloon', 'Balloon', clip('balloon.mov', width, height, 'straight'), {
    opacity: {
      keys: [
        { frame: 1, value: 0, ease: 'smooth' },
        { frame: 8, value: 0.06, ease: 'smooth' },
        { frame: 36, value: 0.9, ease: 'smooth' },
        { frame: 48, value: 0.97, ease: 'smooth' },
      ],
    },
    distance: keys(i => {
      const { place } = balloonPlace(i)
      return Math.hypot(...place)
    }),
    treatments: rowsOf<TreatmentSettings>([newTreatment('saturation', { amount: 0.85 }, 'hazier')]),
  })
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
    balloon,
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
  document.passes.file = null
  document.build.layers.render!.name = 'Balloon render'
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
      thumbnail: 'survey balloon.jpg',
    },
    thumbnail: 'survey balloon.jpg',
  }
}
