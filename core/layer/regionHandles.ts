// A box in the scene, or a rectangle on its ground, that the hand takes hold of.
import type { FramePlace } from '../matte/handles'
import { segment } from '../match/project'
import type { Camera } from '../scene/scene'
import type { Vector3 } from '../scene/vector'

/** Its middle and its sides, metres. */
type BoxValues = Readonly<Record<'x' | 'y' | 'z' | 'wide' | 'tall' | 'deep', number>>
interface Region {
  grips: { id: string; label: string; place: Vector3; along: Vector3 }[]
  edges: (readonly [Vector3, Vector3])[]
}
/** Edges and grips of a box; else of the rectangle that it is on the ground. */
export function regionOf({ x, y, z, wide, tall, deep }: BoxValues, isBox: boolean): Region {
  const high = isBox ? tall / 2 : 0
  const corner = (i: number): Vector3 => [
    x + (i & 1 ? wide : -wide) / 2,
    y + (i & 2 ? high : -high),
    z + (i & 4 ? deep : -deep) / 2,
  ]
  const pairs = isBox ? EDGES : EDGES.filter(([a, b]) => !(a & 2) && !(b & 2))
  return {
    grips: [
      { id: 'wide', label: 'width of the region', place: [x + wide / 2, y, z], along: [1, 0, 0] },
      ...(isBox
        ? [
            {
              id: 'tall',
              label: 'height of the region',
              place: [x, y + high, z],
              along: [0, 1, 0],
            } satisfies Region['grips'][number],
          ]
        : []),
      { id: 'deep', label: 'depth of the region', place: [x, y, z + deep / 2], along: [0, 0, 1] },
    ],
    edges: pairs.map(([a, b]) => [corner(a), corner(b)] as const),
  }
}
/** Corners of a box that differ in one of x, y and z. */
const EDGES: readonly (readonly [number, number])[] = [0, 1, 2, 3, 4, 5, 6, 7].flatMap(i =>
  [1, 2, 4].filter(bit => !(i & bit)).map(bit => [i, i | bit] as const),
)
/** Edges as they are seen. */
export function linesOf(
  edges: Region['edges'],
  camera: Camera,
  { width, height }: { width: number; height: number },
): FramePlace[][] {
  return edges.flatMap(([a, b]) => {
    const line = segment(camera, width / height, a, b)
    return line
      ? [
          [
            [line[0] * width, line[1] * height],
            [line[2] * width, line[3] * height],
          ] as FramePlace[],
        ]
      : []
  })
}
