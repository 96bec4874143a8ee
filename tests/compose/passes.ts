// Pass files and shots by hand, for tests of what is built from them.
import { createHash } from 'node:crypto'
import { emptyWindow, stringAttribute, writeExr, type ExrChannel } from '../../core/formats/exr/exr'
import { LIGHT_PARTS } from '../../core/render/passes'
import type { PassFileReference } from '../../core/shot/document'

export class Files {
  private files = new Map<string, Uint8Array>()
  keep(bytes: Uint8Array): string {
    const name = createHash('sha256').update(bytes).digest('hex')
    this.files.set(name, bytes)
    return name
  }
  readonly load = async (blob: string): Promise<Uint8Array> => this.files.get(blob)!
}

export type Plane = (x: number, y: number) => number
/**
 * A file of those planes, and the parts of the light that are not among them black. passes: what the document says that
 * it holds.
 */
export function passFile(
  files: Files,
  [width, height]: readonly [number, number],
  planes: Record<string, Plane>,
  { passes = ['beauty', 'alpha', 'depth'], objects = ['wall'] }: { passes?: string[]; objects?: string[] } = {},
): PassFileReference {
  const dark = LIGHT_PARTS.flatMap(part => ['R', 'G', 'B'].map(c => [`${part}.${c}`, () => 0] as const))
  const all: Record<string, Plane> = { ...Object.fromEntries(dark), ...planes }
  const bytes = writeExr({
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression: 'zip',
    attributes: [
      stringAttribute('northmist/objects', JSON.stringify(objects)),
      stringAttribute('northmist/materials', '[]'),
    ],
    channels: Object.entries(all)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, value]): ExrChannel => ({
        name,
        type: 'float',
        linear: false,
        data: Float32Array.from({ length: width * height }, (_, i) => value(i % width, Math.floor(i / width))),
      })),
  })
  return { blob: files.keep(bytes), name: 'passes.exr', width, height, passes, objects, materials: [], of: '' }
}
/** One colour in the direct light. */
export const lit = (red: Plane, green: Plane = red, blue: Plane = red): Record<string, Plane> => ({
  'diffuse_direct.R': red,
  'diffuse_direct.G': green,
  'diffuse_direct.B': blue,
})
