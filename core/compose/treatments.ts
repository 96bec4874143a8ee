// Lines of treatments laid on a picture.
import { allNeutral, valuesAt, within } from '../declare/values'
import { around, boxOf, common, holds } from '../engine/box'
import { kernelNode, type Node } from '../plan/node'
import type { Picture, Shaping } from '../plan/picture'
import { reshaped } from '../plan/shaped'
import type { Camera, Light } from '../scene/scene'
import type { BlobReference, ShotDocument, Slip, TreatmentSettings } from '../shot/document'
import { inOrder, type Rows } from '../shot/rows'
import { valueAt } from '../time/curve'
import { lampsSeen } from '../treatment/lampsSeen'
import { treatmentOf } from '../treatment/registry'
import {
  asksTable,
  isPoint,
  type NamedPicture,
  type Table,
  type Treatment,
  type TreatmentInput,
} from '../treatment/treatment'
import { Mix, Shift } from '../../kernels/records'
import { matteNode, passIn, type MatteBy } from './mattes'
import type { PassNodes } from '../render/passnodes'
import type { Size } from '../plan/size'

export interface TreatedBy {
  frame: number
  size: Size
  /** First and last frame of the shot. */
  frames: { first: number; last: number }
  /** Passes at that size and frame, where there are any. Throws StillPacked. */
  passes: PassNodes | undefined
  /** Of the shot, at the frame or another. */
  camera: (frame?: number) => Camera
  /** What lights the shot's scene at the frame. Throws StillPacked. */
  lights?: () => readonly Light[]
  /** What comes of the shot's environment; undefined where it has none. Throws StillPacked. */
  surroundings?: TreatmentInput['surroundings']
  /** The shot's kept mattes. */
  mattes: ShotDocument['mattes']
  /** Left out by its id. */
  without?: string
  /** Whether names count as a share of what covers the pixel (for premultiplied layers). */
  relative: boolean
  /** As MatteBy has it. */
  taken?: MatteBy['taken']
  /** A colour table of a file, and a name that is its alone. Throws StillPacked. */
  table?: (reference: BlobReference) => Table
  /** A small picture of a file. Throws StillPacked. */
  small?: (reference: BlobReference) => NamedPicture
  /** The picture that the lines are laid on at another frame, with what belongs to that. Throws StillPacked. */
  at: (frame: number) => { picture: Picture; by: TreatedBy }
  /**
   * What comes to a line is looked at, and a slip made of that; and what takes it. cut: a layer as the slip leaves it.
   */
  look?: { line: string; slip?: Slip; found?: { comes?: Node; matte?: Node; cut?: Node; size: Size } }
}

/** A picture with the lines of a recipe laid on it. Throws StillPacked. */
export const treated = (picture: Picture, lines: Rows<TreatmentSettings>, by: TreatedBy): Picture =>
  inOrder(lines).reduce((result, line, i, all) => withLine(result, line, all.slice(0, i), by), picture)

function withLine(
  picture: Picture,
  line: TreatmentSettings,
  before: readonly TreatmentSettings[],
  by: TreatedBy,
): Picture {
  const { frame, size, frames } = by
  const at = (other: number): Picture => {
    const held = within(other, frames.first, frames.last)
    if (held === frame) return picture
    const there = by.at(held)
    return before.reduce((result, earlier, i) => withLine(result, earlier, before.slice(0, i), there.by), there.picture)
  }
  const there = (other: number): { picture: Picture; by: MatteBy } => {
    const held = within(other, frames.first, frames.last)
    return { picture: at(held), by: { ...(held === frame ? by : by.at(held).by), there } }
  }
  const where = (slip: Slip): ReturnType<typeof matteNode> => matteNode(slip, picture, { ...by, there })
  if (by.look?.line === line.id) {
    const matte = by.look.slip && where(by.look.slip)
    by.look.found = { comes: picture.colour, matte: matte === 'everywhere' ? undefined : matte, size }
  }
  if (!line.on || by.without === line.id) return picture
  const treatment = treatmentOf(line.kind)
  const values = valuesAt(treatment.values, line.values, frame, valueAt, size.shrink)
  const strength = within(valueAt(line.strength, frame), 0, 1)
  if (strength === 0) return picture
  const isIdle = doesNothing(treatment, values)
  if ((isIdle && !treatment.shape) || (asksTable(treatment, values) && !line.table) || (treatment.lined && !line.lines))
    return picture
  const held = line.matte ? where(line.matte) : 'everywhere'
  if (!held) return picture
  const matte = held === 'everywhere' ? undefined : held
  const { width, height, shrink } = size
  const table = line.table && ((): Table | undefined => by.table?.(line.table!))
  const small = line.table && ((): NamedPicture | undefined => by.small?.(line.table!))
  const lines = line.lines && ((): Node => treated(picture, line.lines!, inLook(by, at)).colour)
  const input: TreatmentInput = {
    ...picture,
    strength,
    matte,
    width,
    height,
    shrink,
    frame,
    camera: () => by.camera(),
    table,
    small,
    at,
    lines,
    pass: passIn(by.passes),
    surroundings: by.surroundings,
    lamps: by.lights && (() => lampsSeen(by.lights!(), by.camera(), width, height)),
  }
  if (treatment.shape && strength === 1 && !matte) {
    const own = treatment.shape(input, values as never)
    const moving = movingOf(treatment, line, input, by)
    if (isIdle && !moving) return picture
    const after = reshaped(picture, moving ? { ...own, moving } : own, size)
    // What goes by its place at the frame is not made anew for it
    return isIdle ? { ...picture, motion: after.motion } : after
  }
  if (isIdle) return picture
  const colour = appliedNode(treatment, input, values)
  const grain = treatment.takesGrain
    ? [...(picture.grain ?? []), { before: picture.colour, after: colour }]
    : picture.grain
  return { ...picture, colour, grain }
}

/** How a treatment of shape is a frame on and a frame ago; undefined where it stays as it is. */
function movingOf(
  { shape, values: fields }: Treatment,
  { values: settings }: TreatmentSettings,
  input: TreatmentInput,
  { frame, size, camera }: TreatedBy,
): Shaping['moving'] {
  const at = (other: number): [values: Record<string, unknown>, camera: Camera] => [
    valuesAt(fields, settings, other, valueAt, size.shrink),
    camera(other),
  ]
  const now = JSON.stringify(at(frame))
  if ([frame + 1, frame - 1].every(other => JSON.stringify(at(other)) === now)) return undefined
  const there = (other: number): Shaping => {
    const [values, camera] = at(other)
    return shape!({ ...input, frame: other, camera: () => camera }, values as never)
  }
  return { next: there(frame + 1), before: there(frame - 1) }
}

/** What the lines of a look are laid with: at another frame they are laid on what comes to the look there. */
const inLook = (by: TreatedBy, at: (frame: number) => Picture): TreatedBy => ({
  ...by,
  at: other => ({ picture: at(other), by: other === by.frame ? by : by.at(other).by }),
})

/** Whether a treatment of such values leaves everything as it is. */
export function doesNothing(
  { values: fields, neutral, idle }: Treatment,
  values: Readonly<Record<string, unknown>>,
): boolean {
  if (idle?.(values as never)) return true
  // What says by itself when it is idle may do something though its numbers are neutral: by a list of tones
  if (idle && !neutral) return false
  return allNeutral(neutral ? Object.fromEntries(neutral.map(name => [name, fields[name]!])) : fields, values)
}

/** A treatment with its strength and matte. values: at the frame, lengths at the size that is worked at. */
export function appliedNode(treatment: Treatment, input: TreatmentInput, values: Record<string, unknown>): Node {
  const after = withinFrame(treatment.plan(input, values as never), input)
  if (isPoint(after, input) && !treatment.lined && !treatment.fed) return after
  return mixedIn(input.colour, after, input.strength, treatment.fed ? undefined : input.matte)
}

/** What was made without what lies beyond the frame: a lamp there, say. What came may reach beyond it. */
function withinFrame(after: Node, { colour, width, height }: TreatmentInput): Node {
  const limit = around(boxOf(width, height), colour.window)
  if (holds(limit, after.window)) return after
  return kernelNode(
    Shift,
    { source: after, dx: 0, dy: 0 },
    { window: common(after.window, limit), needs: area => area },
  )
}

/** So much of what a treatment or layer made, where its matte says. */
export function mixedIn(before: Node, after: Node, share: number, matte: Node | undefined): Node {
  if (share === 1 && !matte) return after
  return kernelNode(
    Mix,
    { first: before, second: after, matte, share },
    { window: around(before.window, after.window) },
  )
}
