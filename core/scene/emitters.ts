// What shines of a scene beside its lamps: objects whose surfaces send light, each as one ball that sends as much.
import type { Light, Scene } from './scene'
import { add, cross, length, scaled, subtract, transformPoint, type Vector3 } from './vector'

/** Objects that shine less than this, W/m2 sr of all three channels times m2, light nothing that one sees. */
const LEAST = 1e-4

/**
 * A ball for each object that sends light, at the middle of its shining surface and as large as that: so far off it lights
 * as the object does. Pictures of its light do not count.
 */
export function emittersOf({ objects, materials }: Scene): Light[] {
  return objects.flatMap(({ name, absent, parts, matrix }): Light[] => {
    let area = 0
    let middle: Vector3 = [0, 0, 0]
    let power: Vector3 = [0, 0, 0]
    if (absent) return []
    for (const { positions, indices, material } of parts) {
      const { emission } = materials[material]!
      if (!emission.some(part => part > 0)) continue
      const corner = (i: number): Vector3 => {
        const at = indices[i]! * 3
        return transformPoint(matrix, [positions[at]!, positions[at + 1]!, positions[at + 2]!])
      }
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [corner(i), corner(i + 1), corner(i + 2)]
        const own = length(cross(subtract(b, a), subtract(c, a))) / 2
        if (!(own > 0)) continue
        area += own
        middle = add(middle, scaled(add(add(a, b), c), own / 3))
        power = add(power, scaled(emission, own))
      }
    }
    if (!(power[0] + power[1] + power[2] > LEAST)) return []
    return [
      {
        ...{ kind: 'ball', name, centre: scaled(middle, 1 / area) },
        ...{ radius: Math.sqrt(area / (4 * Math.PI)), radiance: scaled(power, 1 / area) },
      },
    ]
  })
}
