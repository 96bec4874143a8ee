// What a fit check tells beside what is measured of pixels: heads against the horizon, contact, shadows, rate, shutter
// and lens, each with its mend.
import { ownOf } from '../declare/own'
import { rateText, sameRate } from '../time/rate'
import { lengthText } from '../text/metres'
import { valueAt } from '../time/curve'
import type { Sure } from '../measure/beside'
import type { FigureLayer, ShotDocument } from './document'
import { shadowsFallNowhere } from './faults'
import { headsOff } from './figures'
import { hasLens, lensOf } from './lens'
import { layGround, moveTogether } from './objects'
import { layLine } from './fitMends'
import { inOrder } from './rows'
import { sightOf } from './scene'
import { floating } from './standing'
import { passFileOf } from './tree'
import { setRate } from './values'

/** What of the scene is asked for: its things as they stand at the frame. */
export interface FitScene {
  lights: readonly string[]
  fileNames: readonly string[]
  objects: readonly {
    name: string
    role: string
    hidden: boolean
    absent: boolean
    ofPlate: boolean
    shines: boolean
    position: readonly [number, number, number]
    low: readonly [number, number, number]
    high: readonly [number, number, number]
  }[]
}
export interface FitNote {
  id: string
  label: string
  words: string
  sure: Sure
  mend?: { label: string; change: (document: ShotDocument) => void }
}

/** layer: what is held against the plate. */
export function fitNotes(document: ShotDocument, frame: number, layer: string, scene: FitScene | null): FitNote[] {
  return [
    ...heads(document, frame),
    ...contact(document, frame, scene),
    ...shadows(document, frame, scene),
    ...rate(document),
    ...shutter(document, layer),
    lensNote(document, frame),
  ]
}

const figures = (document: ShotDocument): FigureLayer[] =>
  inOrder(document.build.layers).filter((layer): layer is FigureLayer => layer.kind === 'figure' && layer.on)

function heads(document: ShotDocument, frame: number): FitNote[] {
  const all = figures(document)
  const off = all.flatMap(layer => {
    const found = headsOff(layer, sightOf(document, frame))
    if (!found) return []
    const change = (changed: ShotDocument): void => {
      ;(changed.build.layers[layer.id] as FigureLayer).height = found.fits
    }
    return [
      {
        id: `head-${layer.id}`,
        label: `head of ${layer.name}`,
        words: found.words,
        sure: 'likely' as const,
        mend: { label: `make it ${found.fits} m`, change },
      },
    ]
  })
  return all.length && !off.length
    ? [{ id: 'heads', label: 'heads', words: 'Heads lie as the horizon has them.', sure: 'fits' }]
    : off
}

function contact(document: ShotDocument, frame: number, scene: FitScene | null): FitNote[] {
  const things = scene?.objects.filter(({ hidden, absent }) => !hidden && !absent) ?? []
  if (!things.some(({ role }) => role === 'object')) return []
  const free = floating(things).filter(({ name }) => things.find(thing => thing.name === name)!.role === 'object')
  if (!free.length)
    return [{ id: 'contact', label: 'contact', words: 'Each thing reaches the ground or another thing.', sure: 'fits' }]
  return free.map(({ name, metres }) => ({
    id: `contact-${name}`,
    label: `contact of ${name}`,
    words: `It touches nothing: ${lengthText(metres)} above what is under it.`,
    sure: 'likely' as const,
    mend: {
      label: 'put it down',
      change: (changed: ShotDocument) => {
        const { position } = things.find(thing => thing.name === name)!
        moveTogether(changed, [name], () => position, [0, -metres, 0], frame)
      },
    },
  }))
}

function shadows(document: ShotDocument, frame: number, scene: FitScene | null): FitNote[] {
  const without = figures(document).filter(({ shadow, world }) => world !== 'scene' && valueAt(shadow, frame) === 0)
  const notes: FitNote[] = without.map(layer => ({
    id: `shadow-${layer.id}`,
    label: `shadow of ${layer.name}`,
    words: 'It stands on the ground and throws no shadow.',
    sure: 'certain',
    mend: {
      label: 'let it throw one',
      change: changed => {
        ;(changed.build.layers[layer.id] as FigureLayer).shadow = 1
      },
    },
  }))
  if (scene && shadowsFallNowhere(document, scene.lights, scene.objects))
    notes.push({
      id: 'shadow',
      label: 'shadows',
      words: 'Nothing in the scene catches a shadow: what is rendered cannot darken the plate.',
      sure: 'certain',
      mend: {
        label: 'let the ground catch them',
        change: changed => {
          layGround(changed, scene.fileNames, scene.objects)
        },
      },
    })
  const throws = figures(document).length > 0 || scene?.objects.some(({ role }) => role === 'catcher')
  return notes.length || !throws
    ? notes
    : [{ id: 'shadow', label: 'shadows', words: 'What stands on the ground throws a shadow.', sure: 'fits' }]
}

function rate(document: ShotDocument): FitNote[] {
  const { clip } = document.plate ?? {}
  if (!clip) return []
  const fits = sameRate(clip.rate, document.rate) || clip.timing.conform !== 'frames'
  const note = {
    id: 'rate',
    label: 'rate',
    words: `The plate runs at ${rateText(clip.rate)}, the shot at ${rateText(document.rate)}.`,
  }
  if (fits) return [{ ...note, sure: 'fits' }]
  const change = (changed: ShotDocument): void => setRate(changed, clip.rate)
  return [{ ...note, sure: 'certain', mend: { label: `shot at ${rateText(clip.rate)}`, change } }]
}

/**
 * A plate that moves smears what moves (a shutter of 180° is common practice, no source); so must what is laid on it.
 */
function shutter(document: ShotDocument, id: string): FitNote[] {
  const { first, last } = document.frames
  const layer = ownOf(document.build.layers, id)
  if (first === last || !document.plate?.clip || layer?.kind !== 'render') return []
  const blurred = [...inOrder(layer.treatments), ...inOrder(document.finish)].some(
    ({ kind, on }) => kind === 'motion_blur' && on,
  )
  const file = passFileOf(document, id)
  if (blurred || (!layer.file && document.passes.shutter))
    return [
      {
        id: 'shutter',
        label: 'shutter',
        words: blurred ? 'What moves is smeared by the line Motion blur.' : 'It was rendered with its shutter open.',
        sure: 'fits',
      },
    ]
  if (!file?.passes.includes('motion_forward'))
    return [
      {
        id: 'shutter',
        label: 'shutter',
        words:
          'What moves is not smeared, and there is no pass of motion to do it by: render one, or open the shutter.',
        sure: 'likely',
      },
    ]
  return [
    {
      id: 'shutter',
      label: 'shutter',
      words: 'The plate was taken by a shutter that stood open; what moves in the render is not smeared.',
      sure: 'likely',
      mend: { label: 'smear it, 180°', change: changed => layLine(changed, id, { kind: 'motion_blur', values: {} }) },
    },
  ]
}

function lensNote(document: ShotDocument, frame: number): FitNote {
  const note = { id: 'lens', label: 'bend of the lens' }
  if (!hasLens(document))
    return {
      ...note,
      words: 'The bend of the plate’s lens was not taken out: straight edges of both must look alike (Plate, lens).',
      sure: 'unknown',
    }
  const { k1 } = lensOf(document, frame)!
  return { ...note, words: `Both are bent by the lens of the shot (k1 ${Number(k1.toFixed(4))}).`, sure: 'fits' }
}
