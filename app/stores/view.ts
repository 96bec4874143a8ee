// How the picture is looked at: the same at every station, never part of the shot.
import { seenPlain } from '../../core/render/passes'
import { defineStore } from 'pinia'
import type { Ground, Show } from '../../core/compose/request'
import type { Box } from '../../core/engine/box'
import type { StandInShape } from '../../core/scene/standin'
import type { Meant } from '../../core/compose/probe'
import type { Seen } from '../../core/render/passes'
import type { PictureReference, ShotDocument, Slip } from '../../core/shot/document'
import { firstNumbers } from '../../core/shot/drawn'
import { TIP_VALUES } from '../../core/shot/schema/drawn'
import { namesTerm, slipOf } from '../../core/shot/slip'

export interface Taking {
  /** The line of the slip, and its value. */
  term: string
  name: string
  /** The line of the recipe, whose picture is meant. */
  line: string
  /**
   * names: of what a frame is drawn round; part: that frame itself; depth: the value in the file of a layer (`line`); place:
   * where it was, in shares of the frame.
   */
  what: 'colour' | 'metres' | 'names' | 'part' | 'depth' | 'place'
  /** One after another, until it is said that it is enough. */
  again?: boolean
}
/** What it gave, from where (pixels of the frame), and whether Shift was held. */
export type Taken = Taking & { value: number | number[] | string[]; at?: readonly [number, number]; shift?: boolean }
/** What a press on the picture draws: a curve by its points, a box's ellipse or rectangle, or a stroke. */
export const DRAW_TOOLS = ['curve', 'ellipse', 'rectangle'] as const
export type DrawTool = (typeof DRAW_TOOLS)[number] | 'brush' | 'on a point'
export interface Drawn {
  /** The line of a slip whose shapes or strokes are on the picture. */
  term: string
  tool: DrawTool | null
  /** The shape under work, and its point. */
  shape: string
  point: string
}
export type MatteAs = NonNullable<Extract<Show, { kind: 'matte' }>['as']>
export type Station = 'plate' | 'scene' | 'passes' | 'build' | 'finish' | 'send'
export type MatchTool = 'x' | 'y' | 'z' | 'upright' | 'length' | 'origin' | 'pole'
/**
 * What a click or drag on the picture does: drawing stand-ins, putting a thing on a place, known points, pins, corners that
 * are pulled, the sun from a shadow, turning the environment and setting its brightness, bending lines straight.
 */
export type SceneTool =
  StandInShape | 'put' | 'grey' | 'known' | 'pin' | 'pull' | 'sun' | 'environment' | 'print' | 'track' | 'lens'
export const STRIPS = ['soundings', 'light', 'pixels'] as const
/** Pixels that are pinned at most, and what each is drawn in. */
export const MOST_PINS = 6
export const PIN_COLOURS = ['#c23b2c', '#2f6fb8', '#2f8a4a', '#b3761a', '#7d4bb0', '#4a4f57']
export type Strip = (typeof STRIPS)[number]
export type ScenePart = 'camera' | 'things' | 'light'
export const STATIONS: readonly Station[] = ['plate', 'scene', 'passes', 'build', 'finish', 'send']

/** How two pictures are laid over each other. */
export const COMPARED_BY = ['line', 'blink', 'difference'] as const
/** What the picture is compared with, and how; kept: a version of the ledger. */
interface Compared {
  with: 'before' | 'plate' | 'as rendered' | 'kept'
  at: number
  angle: number
  by?: (typeof COMPARED_BY)[number]
  kept?: { id: string; name: string; document: ShotDocument }
}

export const useView = defineStore('view', {
  state: () => ({
    station: 'build' as Station,
    zoom: 0 /* 0: fitted */,
    panX: 0,
    panY: 0,
    stops: 0,
    channel: 0,
    pass: null as string | null,
    near: 1,
    far: 20,
    /** Objects under work, by name. */
    picked: [] as string[],
    /** How what is picked is seen: as it stands, through glass, or mirrored. */
    pickedSeen: 'straight' as Seen,
    hovered: '',
    /** The matte that is looked at, the line that it is of, and how it is seen. */
    matte: null as Slip | null,
    matteLine: '',
    matteAs: 'veil' as MatteAs,
    /** What the picture is cut out over. */
    matteOver: 'grey' as Ground,
    /** The line whose slip is open. */
    slipOpen: '',
    /** A value of a line of a slip that the next click in the picture gives; then what it gave. */
    taking: null as Taking | null,
    taken: null as Taken | null,
    drawn: null as Drawn | null,
    /** Lines of open slips whose handles are on the picture. */
    handled: [] as string[],
    /** What the next stroke of a brush is made with. */
    tip: { ...firstNumbers(TIP_VALUES), takes: false },
    /** Something is held to be seen without it; before: as it was when one came to the thing that is under work. */
    held: null as null | { id?: string; treatments?: boolean; before?: boolean },
    compare: null as Compared | null,
    ledgerOpen: false,
    /** Values over time over the lower half. */
    lowerCurves: false,
    /** What stands under the picture. */
    strip: (STRIPS.find(strip => strip === globalThis.localStorage?.getItem('northmist/strip')) ??
      'soundings') as Strip,
    /** Pixels whose worth is followed over time, in pixels of the frame; the next click pins one. */
    pins: [] as { id: string; x: number; y: number }[],
    pinning: false,
    /** What one wants to know of, marked on the picture (MARKS). */
    marks: [] as string[],
    /** The line whose borders of light lie on the histogram. */
    borders: '',
    /** What the instruments of light are of; the box that was drawn for them, and what is seen of the frame. */
    measured: 'whole' as 'whole' | 'view' | 'box',
    measuredBox: null as Box | null,
    /** Another picture that stands in the viewer while a part of it is drawn. */
    shownPicture: null as PictureReference | null,
    seen: null as Box | null,
    deskOpen: false,
    /** One goes round the things of the desk: at which one is, the how manieth step it is, and the shot as it was then. */
    round: null as null | { name: string; step: number; before: ShotDocument },
    fitOpen: false,
    sheetOpen: false,
    whole: false,
    dim: false,
    helpOpen: false,
    selectedLayer: 'render',
    /** Layers chosen beside that one; groups that are folded; layers that are seen alone. */
    moreLayers: [] as string[],
    folded: [] as string[],
    solo: [] as string[],
    selectedTreatment: '',
    dragging: false,
    /** Tool of the match at work, the line under the pointer, and the sizes that the tools use. */
    matchTool: null as MatchTool | null,
    sceneTool: null as SceneTool | null,
    scenePart: (globalThis.localStorage?.getItem('northmist/part') ?? 'things') as ScenePart,
    /**
     * Metres and degrees that placing snaps to; 0 for none. Edges of all objects over the plate. Points of the track.
     */
    snapMetres: 0,
    snapDegrees: 0,
    sceneEdges: false,
    trackPoints: true,
    /** The scene's preview with its noise. */
    previewPlain: false,
    /** Known point whose place in the picture is dragged next; picture laid on an object that is under work. */
    knownPoint: '',
    selectedPrint: '',
    pinTurn: true,
    pinScale: false,
    matchLine: '',
    matchMetres: 1.8,
    poleMetres: 1.8,
    /** What the panorama's brightness is set by: how much it reflects, and how it stands. */
    greyPercent: 80,
    greyUpright: false,
    /** 1 forward, -1 backward, 0 not playing. */
    playing: 0 as 1 | 0 | -1,
    loop: true,
    /** Where the time line's frames lie on the page, in its pixels: from the left, and across. */
    timeScale: null as null | { left: number; width: number },
    range: null as null | { first: number; last: number },
    dropped: 0,
    /** The frame that playing shows, and those that are ready. */
    played: null as null | { bitmap: ImageBitmap; frame: number },
    keptFrames: [] as number[],
  }),
  getters: {
    /** The layer that is open where layers are worked on. */
    layerAtWork(): string | undefined {
      return this.station === 'build' ? this.selectedLayer : undefined
    },
    show(): Show {
      if (this.shownPicture) return { kind: 'plate', straight: true }
      if (this.matte)
        return {
          kind: 'matte',
          matte: this.matte,
          line: this.matteLine,
          of: this.layerAtWork,
          as: this.matteAs,
          over: this.matteOver,
        }
      if (this.station === 'passes' && this.pass) return { kind: 'pass', id: this.pass, near: this.near, far: this.far }
      if (this.station === 'plate') return { kind: 'plate' }
      if (this.station === 'scene') return { kind: 'plate', straight: true }
      if (this.station === 'build') return { kind: 'build' }
      return { kind: 'finish' }
    },
    /** Marks lie on the picture while the strip that tells of them is there. */
    marked(): string[] {
      return this.strip === 'light' ? this.marks : []
    },
    /** The matte of what is picked; none when nothing is. */
    pickedMatte(): Slip | null {
      return this.picked.length ? slipOf(namesTerm(this.picked, this.pickedSeen)) : null
    },
    /** Data passes are shown as numbers, not through the picture's view. */
    viewOverride(): string | undefined {
      return (this.matte && this.matteAs === 'grey') || (this.station === 'passes' && this.pass && seenPlain(this.pass))
        ? 'plain'
        : undefined
    },
  },
  actions: {
    /**
     * Picks one thing, or adds it to the others or takes it out; things seen in different ways are not picked together.
     */
    pick({ name, seen }: Meant, add: boolean) {
      if (seen !== this.pickedSeen) add = false
      this.picked = add
        ? this.picked.includes(name)
          ? this.picked.filter(other => other !== name)
          : [...this.picked, name]
        : [name]
      this.pickedSeen = seen
    },
    /** Opens the one over the lower half, or closes it where it is what one sees there. */
    toggleLower(which: 'deskOpen' | 'fitOpen') {
      const isSeen = which === 'deskOpen' ? this.deskOpen && !this.fitOpen : this.fitOpen
      Object.assign(this, { deskOpen: false, fitOpen: false, [which]: !isSeen })
    },
    showStrip(strip: Strip) {
      this.strip = strip
      localStorage.setItem('northmist/strip', strip)
    },
    fit() {
      this.zoom = 0
      this.panX = 0
      this.panY = 0
    },
  },
})
export const CHANNELS = ['Colour', 'Red', 'Green', 'Blue', 'Alpha', 'Luminance'] as const
