// The animated camera of a glTF file as a camera track, with the points that the file holds (primitives of mode 0).
import type { Animation, AnimationSampler, Node } from '@gltf-transform/core'
import type { CameraTrack, TrackFrame, TrackPoint } from './track'
import {
  compose,
  degreesFromRotation,
  identity,
  multiply,
  transformPoint,
  type Matrix4,
  type Quaternion,
  type Vector3,
} from '../scene/vector'
import { perSecond, type Rate } from '../time/rate'
import { BadInput } from '../formats/errors'
import { toCamera } from '../formats/gltf/camera'
import { readDocument } from '../formats/gltf/gltf'

const MOST_FRAMES = 20000

/**
 * A sampler's value at a time in seconds: glTF 2.0, appendix C (step, linear, spherical linear for rotations, cubic
 * spline).
 */
export function sampled(sampler: AnimationSampler, time: number, rotation: boolean): number[] {
  const times = sampler.getInput()!.getArray()!
  const output = sampler.getOutput()!
  const count = times.length
  const cubic = sampler.getInterpolation() === 'CUBICSPLINE'
  const element = (k: number, part: 0 | 1 | 2 = 1): number[] => output.getElement(cubic ? k * 3 + part : k, [])
  if (time <= times[0]!) return element(0)
  if (time >= times[count - 1]!) return element(count - 1)
  let k = 0
  while (k + 2 < count && times[k + 1]! <= time) k++
  const span = times[k + 1]! - times[k]!
  const t = (time - times[k]!) / span
  const a = element(k)
  const b = element(k + 1)
  if (sampler.getInterpolation() === 'STEP') return a
  if (cubic) {
    const out = element(k, 2)
    const into = element(k + 1, 0)
    const t2 = t * t
    const t3 = t2 * t
    const value = a.map(
      (p, i) =>
        (2 * t3 - 3 * t2 + 1) * p +
        span * (t3 - 2 * t2 + t) * out[i]! +
        (-2 * t3 + 3 * t2) * b[i]! +
        span * (t3 - t2) * into[i]!,
    )
    const long = rotation ? Math.hypot(...value) : 1
    return value.map(part => part / long)
  }
  if (!rotation) return a.map((p, i) => p + (b[i]! - p) * t)
  const cosine = a.reduce((sum, p, i) => sum + p * b[i]!, 0)
  const turned = cosine < 0 ? b.map(part => -part) : b
  const angle = Math.acos(Math.min(1, Math.abs(cosine)))
  if (angle < 1e-6) return a.map((p, i) => p + (turned[i]! - p) * t)
  return a.map((p, i) => (p * Math.sin((1 - t) * angle) + turned[i]! * Math.sin(t * angle)) / Math.sin(angle))
}

/** Throws BadInput when the file has no camera that moves. Frames are taken at the rate from time 0 on. */
export async function trackOfGltf(bytes: Uint8Array, rate: Rate): Promise<CameraTrack> {
  const notes: string[] = []
  const root = (await readDocument(bytes, {}, notes)).getRoot()
  const nodes = root.listNodes()
  const parents = new Map<Node, Node>()
  for (const node of nodes) for (const child of node.listChildren()) parents.set(child, node)
  const lineOf = (node: Node): Node[] => {
    const line = [node]
    for (let up = parents.get(node); up; up = parents.get(up)) line.unshift(up)
    return line
  }
  const moves = (animation: Animation, line: Node[]): boolean =>
    animation
      .listChannels()
      .some(channel => line.includes(channel.getTargetNode()!) && channel.getSampler()?.getInput())
  let found: { camera: Node; animation: Animation; line: Node[] } | undefined
  for (const camera of nodes.filter(node => node.getCamera())) {
    const line = lineOf(camera)
    const animation = root.listAnimations().find(entry => moves(entry, line))
    if (animation) {
      found = { camera, animation, line }
      break
    }
  }
  if (!found) throw new BadInput('This glTF file has no camera that moves.')
  const { camera, animation, line } = found
  const channels = animation
    .listChannels()
    .filter(channel => line.includes(channel.getTargetNode()!) && channel.getSampler()?.getInput())
  const seconds = Math.max(...channels.map(channel => Number(channel.getSampler()!.getInput()!.getArray()!.at(-1))))
  const count = Math.round(seconds * perSecond(rate)) + 1
  if (!(seconds >= 0) || count > MOST_FRAMES)
    throw new BadInput(`This camera moves for ${seconds} seconds; at most ${MOST_FRAMES} frames are read.`)
  const placed = (node: Node, time: number): Matrix4 => {
    const at = (path: string, rest: number[]): number[] => {
      const channel = channels.find(entry => entry.getTargetNode() === node && entry.getTargetPath() === path)
      return channel ? sampled(channel.getSampler()!, time, path === 'rotation') : rest
    }
    return compose(
      at('translation', node.getTranslation()) as Vector3,
      at('rotation', node.getRotation()) as Quaternion,
      at('scale', node.getScale()) as Vector3,
    )
  }
  if (camera.getCamera()!.getType() !== 'perspective')
    throw new BadInput('The camera of this glTF file is orthographic; a track needs one with perspective.')
  const frames: TrackFrame[] = []
  let sensorWidth = 36
  for (let i = 0; i < count; i++) {
    const matrix = line.reduce<Matrix4>((sum, node) => multiply(sum, placed(node, i / perSecond(rate))), identity())
    const seen = toCamera('camera', matrix, camera.getCamera()!, notes, () => undefined)
    const { heading, tilt, bank } = degreesFromRotation(seen.matrix)
    if (matrix.some(value => !Number.isFinite(value)))
      throw new BadInput(`The camera of this glTF file has no place at frame ${i + 1}.`)
    sensorWidth = seen.sensorWidth
    frames.push({
      x: matrix[12]!,
      y: matrix[13]!,
      z: matrix[14]!,
      heading,
      pitch: tilt,
      bank,
      focalLength: seen.focalLength,
    })
  }
  const points: TrackPoint[] = []
  for (const node of nodes) {
    const world = lineOf(node).reduce<Matrix4>((sum, part) => multiply(sum, part.getMatrix() as Matrix4), identity())
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const positions = primitive.getMode() === 0 ? primitive.getAttribute('POSITION') : null
      for (let i = 0; positions && i < Math.min(100000, positions.getCount()); i++)
        points.push({
          name: `${node.getName() || 'point'} ${i + 1}`,
          place: transformPoint(world, positions.getElement(i, []) as number[] as Vector3),
        })
    }
  }
  return { rate, first: 1, sensorWidth, frames, points }
}
