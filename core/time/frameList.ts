// Which frames of a shot, in writing: “1-24, 30, 40-48x2”; and file names with a number in them.
import { BadInput } from '../formats/errors'

export const MOST_FRAMES = 20_000

/** Frames in the order of the text, each once. Throws BadInput with what is wrong in it. */
export function parseFrames(text: string): number[] {
  const found = new Set<number>()
  for (const part of text.split(',').map(piece => piece.trim())) {
    if (!part) continue
    const range = /^(-?\d{1,7})(?:\s*-\s*(-?\d{1,7})(?:\s*x\s*(\d{1,5}))?)?$/.exec(part)
    if (!range) throw new BadInput(`“${part}” names no frames: write 1-24, 30 or 40-48x2 (every second).`)
    const first = Number(range[1])
    const last = range[2] === undefined ? first : Number(range[2])
    const step = range[3] === undefined ? 1 : Number(range[3])
    if (step < 1) throw new BadInput(`“${part}” goes on by no frames.`)
    if (last < first) throw new BadInput(`“${part}” ends before it begins.`)
    if ((last - first) / step + found.size >= MOST_FRAMES)
      throw new BadInput(`“${part}” is more than ${MOST_FRAMES} frames.`)
    for (let frame = first; frame <= last; frame += step) found.add(frame)
  }
  if (!found.size) throw new BadInput('No frames are named: write 1-24, 30 or 40-48x2 (every second).')
  return [...found]
}

/** Characters that a file name may hold everywhere. */
const PLAIN = /[^\p{L}\p{N} ._#()-]+/gu
/**
 * The name of a frame's file: # stands for the number, as many digits as there are # in a row. A pattern without any
 * gets the number at its end, where there is more than one frame.
 */
export function frameName(pattern: string, frame: number, ending: string, many: boolean): string {
  const plain = pattern.replace(PLAIN, ' ').trim() || 'shot'
  const whole = !many || plain.includes('#') ? plain : `${plain}.####`
  const number = (digits: number): string => (frame < 0 ? '-' : '') + String(Math.abs(frame)).padStart(digits, '0')
  return `${whole.replace(/#+/g, run => number(run.length))}.${ending}`
}
