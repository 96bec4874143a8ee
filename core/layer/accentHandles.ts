// What the hand takes hold of of a light accent: its place, and how large its halo is.
import { ring, type FramePlace } from '../matte/handles'
import { placeAt, project } from '../match/project'
import type { AccentValues } from './accentValues'
import { BEFORE, metresTo, pixelsAtOne } from './card'
import type { LayerHandles } from './layer'

export const accentHandles: LayerHandles = (all, { camera, frame: { width, height } }) => {
  const { x, y, z, halo_size } = all as unknown as AccentValues
  const aspect = width / height
  const metres = metresTo(camera, [x, y, z])
  if (!(metres > BEFORE)) return undefined
  const { u, v } = project(camera, aspect, [x, y, z])
  const [across, down] = [u * width, v * height]
  const dense = pixelsAtOne(camera, width) / metres
  return {
    of: 'frame',
    grips: [
      { id: 'place', label: 'place', at: [across, down] },
      { id: 'halo', label: 'halo', at: [across + halo_size * dense, down] },
    ],
    lines: [ring((c, s): FramePlace => [across + c * halo_size * dense, down + s * halo_size * dense])],
    moved: (grip, [toX, toY]): Record<string, number> => {
      if (grip === 'halo') return { halo_size: Math.max(1e-3, Math.hypot(toX - across, toY - down) / dense) }
      const place = placeAt(camera, aspect, toX / width, toY / height, metres)
      return { x: place[0], y: place[1], z: place[2] }
    },
  }
}
