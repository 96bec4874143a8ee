// Whether shadows fall in the scene as they do in the plate: where a shadow of the plate says that its sun stands, against
// the sun of the scene.
import { skyDirection, lightAt } from './lamps'
import { dot } from '../scene/vector'
import { valueAt, withValue } from '../time/curve'
import type { ShotDocument } from './document'
import type { FitNote } from './fitcheck'
import { inOrder } from './rows'

/** Degrees: azimuth 0 ahead of the world (-Z), 90 its right (+X). */
export interface SunStands {
  azimuth: number
  elevation: number
}
interface Sun extends SunStands {
  name: string
  /** Lets it stand where the plate's does; undefined where only its azimuth can be changed. */
  set: (document: ShotDocument, to: SunStands) => void
}
/** A click on foot, top and tip is so good (common practice, no source): degrees. */
const READ_WITHIN = 3
const CERTAIN = 10

const rounded = (value: number): number => Number(value.toFixed(2))
const turned = (by: number): number => ((((by + 180) % 360) + 360) % 360) - 180

/** The sun by which shadows fall: the brightest of the shot's, or that in its environment (`found`, before it is turned). */
export function sunOfShot(document: ShotDocument, frame: number, found: SunStands | null): Sun | undefined {
  const suns = inOrder(document.scene.lights)
    .filter(({ on, kind }) => on && kind === 'sun')
    .map(settings => ({ settings, light: lightAt(settings, frame) }))
  const power = ({ light }: (typeof suns)[number]): number => (light.kind === 'sun' ? Math.max(...light.irradiance) : 0)
  const brightest = suns.sort((a, b) => power(b) - power(a))[0]?.settings
  if (brightest)
    return {
      name: brightest.name,
      azimuth: valueAt(brightest.azimuth, frame),
      elevation: valueAt(brightest.elevation, frame),
      set: (changed, to) => {
        const light = changed.scene.lights[brightest.id]
        if (!light) return
        light.azimuth = withValue(light.azimuth, frame, rounded(to.azimuth))
        light.elevation = withValue(light.elevation, frame, rounded(to.elevation))
      },
    }
  const { environment } = document.scene
  if (!environment || !found) return undefined
  const turn = valueAt(environment.turn, frame)
  return {
    name: 'the sun of the environment',
    azimuth: turned(found.azimuth + turn),
    elevation: found.elevation,
    set: (changed, to) => {
      const own = changed.scene.environment
      if (own) own.turn = withValue(own.turn, frame, rounded(turned(to.azimuth - found.azimuth)))
    },
  }
}

/** The line of a fit check. read: what a shadow of the plate said; none as long as none was clicked. */
export function sunNote(
  document: ShotDocument,
  frame: number,
  found: SunStands | null,
  read: SunStands | null,
): FitNote | undefined {
  const sun = sunOfShot(document, frame, found)
  const about = { id: 'sun', label: 'direction of shadows' }
  if (!sun) return undefined
  if (!read) return { ...about, words: 'Not known until a shadow in the plate is clicked.', sure: 'unknown' }
  const cosine = dot(skyDirection(read.azimuth, read.elevation), skyDirection(sun.azimuth, sun.elevation))
  const off = (Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI
  const stands = ({ azimuth, elevation }: SunStands): string =>
    `${elevation.toFixed(1)}° high at ${turned(azimuth).toFixed(1)}°`
  if (off <= READ_WITHIN)
    return {
      ...about,
      words: `As in the plate: ${sun.name} stands ${stands(sun)}, ${off.toFixed(1)}° off.`,
      sure: 'fits',
    }
  const aside = turned(sun.azimuth - read.azimuth)
  const higher = sun.elevation - read.elevation
  const ways = [
    ...(Math.abs(aside) > 0.5 ? [`${Math.abs(aside).toFixed(1)}° too far to the ${aside > 0 ? 'right' : 'left'}`] : []),
    ...(Math.abs(higher) > 0.5 ? [`${Math.abs(higher).toFixed(1)}° too ${higher > 0 ? 'high' : 'low'}`] : []),
  ]
  return {
    ...about,
    words: `In the plate the sun stands ${stands(read)}; ${sun.name} ${stands(sun)}: ${ways.join(', ')} (± ${READ_WITHIN}°).`,
    sure: off > CERTAIN ? 'certain' : 'likely',
    mend: { label: 'let it stand there', change: changed => sun.set(changed, read) },
  }
}
