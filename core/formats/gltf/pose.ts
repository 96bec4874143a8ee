// Where the nodes of a glTF file stand at a time, and what skins and morph targets make of its meshes then (glTF 2.0,
// 3.7.2, 3.7.3 and appendix C).
import type { AnimationChannel, Node, Primitive, Root } from '@gltf-transform/core'
import type { Part } from '../../scene/scene'
import {
  compose,
  identity,
  inverseOf,
  multiply,
  normalized,
  normalMatrix,
  transformDirection,
  transformPoint,
  type Matrix4,
  type Quaternion,
  type Vector3,
} from '../../scene/vector'

/** Seconds until the last key of all animations. */
export function durationOf(root: Root): number {
  let end = 0
  for (const animation of root.listAnimations())
    for (const sampler of animation.listSamplers()) {
      const times = sampler.getInput()
      if (times?.getCount()) end = Math.max(end, times.getScalar(times.getCount() - 1))
    }
  return Number.isFinite(end) ? end : 0
}

/** The value of a channel at a time: of the keys' own before the first and after the last. */
function valueOf(channel: AnimationChannel, seconds: number, size: number): number[] | undefined {
  const sampler = channel.getSampler()
  const input = sampler?.getInput()
  const output = sampler?.getOutput()
  if (!input || !output) return undefined
  const count = input.getCount()
  const cubic = sampler!.getInterpolation() === 'CUBICSPLINE'
  const values = output.getArray()
  const stride = size * (cubic ? 3 : 1)
  if (!count || output.getCount() * output.getElementSize() < count * stride || !values) return undefined
  // Values may be stored as normalised integers
  const element: number[] = []
  const per = output.getElementSize()
  const at = (index: number): number => {
    output.getElement(Math.floor(index / per), element)
    return element[index % per]!
  }
  const key = (i: number, part = cubic ? 1 : 0): number[] =>
    Array.from({ length: size }, (_, c) => at(i * stride + part * size + c))
  let after = 0
  while (after < count && input.getScalar(after) <= seconds) after++
  if (after === 0) return key(0)
  if (after === count || sampler!.getInterpolation() === 'STEP') return key(after - 1)
  const t0 = input.getScalar(after - 1)
  const span = input.getScalar(after) - t0
  const t = span > 0 ? (seconds - t0) / span : 0
  const a = key(after - 1)
  const b = key(after)
  if (cubic) {
    const leaves = key(after - 1, 2)
    const enters = key(after, 0)
    const t2 = t * t
    const t3 = t2 * t
    return a.map(
      (value, c) =>
        (2 * t3 - 3 * t2 + 1) * value +
        (t3 - 2 * t2 + t) * span * leaves[c]! +
        (3 * t2 - 2 * t3) * b[c]! +
        (t3 - t2) * span * enters[c]!,
    )
  }
  return channel.getTargetPath() === 'rotation' ? slerp(a, b, t) : a.map((value, c) => value + (b[c]! - value) * t)
}

/** Spherical linear interpolation along the shorter way (appendix C.4). */
function slerp(a: number[], b: number[], t: number): number[] {
  let cosine = a.reduce((sum, value, i) => sum + value * b[i]!, 0)
  const sign = cosine < 0 ? -1 : 1
  cosine = Math.min(1, cosine * sign)
  const angle = Math.acos(cosine)
  const sine = Math.sin(angle)
  if (sine < 1e-6) return a.map((value, i) => value + (b[i]! * sign - value) * t)
  const from = Math.sin((1 - t) * angle) / sine
  const to = (Math.sin(t * angle) / sine) * sign
  return a.map((value, i) => value * from + b[i]! * to)
}
const unit = (q: number[]): number[] => {
  const length = Math.hypot(...q)
  return length > 0 ? q.map(value => value / length) : [0, 0, 0, 1]
}

export class Pose {
  private moved = new Map<Node, { translation?: number[]; rotation?: number[]; scale?: number[]; weights?: number[] }>()
  private worlds = new Map<Node, Matrix4>()

  constructor(root: Root, seconds: number) {
    for (const animation of root.listAnimations())
      for (const channel of animation.listChannels()) {
        const node = channel.getTargetNode()
        const path = channel.getTargetPath()
        if (!node || !path) continue
        const size =
          path === 'rotation'
            ? 4
            : path === 'weights'
              ? (node.getMesh()?.listPrimitives()[0]?.listTargets().length ?? 0)
              : 3
        const value = size ? valueOf(channel, seconds, size) : undefined
        if (!value?.every(Number.isFinite)) continue
        const entry = this.moved.get(node) ?? {}
        entry[path] = path === 'rotation' ? unit(value) : value
        this.moved.set(node, entry)
      }
  }

  /** A node's place in its parent. */
  local(node: Node): Matrix4 {
    const moved = this.moved.get(node)
    if (!moved?.translation && !moved?.rotation && !moved?.scale) return node.getMatrix() as Matrix4
    return compose(
      (moved.translation ?? node.getTranslation()) as Vector3,
      (moved.rotation ?? node.getRotation()) as Quaternion,
      (moved.scale ?? node.getScale()) as Vector3,
    )
  }

  /** A node's place in the world. */
  private world(node: Node): Matrix4 {
    let found = this.worlds.get(node)
    if (!found) {
      const parent = node.getParentNode()
      found = parent ? multiply(this.world(parent), this.local(node)) : this.local(node)
      this.worlds.set(node, found)
    }
    return found
  }

  /**
   * A mesh part as morph targets and the skin of its node make it; matrix: where its object stands, in whose space the
   * result is.
   */
  deformed(part: Part, primitive: Primitive, node: Node, matrix: Matrix4): Part {
    const skin = node.getSkin()
    const targets = primitive.listTargets()
    const weights =
      this.moved.get(node)?.weights ??
      (node.getWeights().length ? node.getWeights() : (node.getMesh()?.getWeights() ?? []))
    const bent = targets.some((_, i) => weights[i])
    if (!skin && !bent) return part
    const count = part.positions.length / 3
    const positions = part.positions.slice()
    const normals = part.normals?.slice()
    const element: number[] = []
    targets.forEach((target, i) => {
      const weight = weights[i] ?? 0
      if (!weight) return
      for (const [semantic, to] of [
        ['POSITION', positions],
        ['NORMAL', normals],
      ] as const) {
        const offsets = target.getAttribute(semantic)
        if (!offsets || !to || offsets.getCount() !== count) continue
        for (let v = 0; v < count; v++) {
          offsets.getElement(v, element)
          for (let c = 0; c < 3; c++) to[v * 3 + c]! += element[c]! * weight
        }
      }
    })
    if (skin) {
      const inverse = inverseOf(matrix)
      const binds = skin.getInverseBindMatrices()
      const joints = skin
        .listJoints()
        .map((joint, i) =>
          multiply(inverse, multiply(this.world(joint), binds ? (binds.getElement(i, []) as Matrix4) : identity())),
        )
      const sets = ['0', '1'].flatMap(set => {
        const names = primitive.getAttribute(`JOINTS_${set}`)
        const shares = primitive.getAttribute(`WEIGHTS_${set}`)
        return names && shares && names.getCount() === count && shares.getCount() === count ? [{ names, shares }] : []
      })
      const share: number[] = []
      for (let v = 0; v < count; v++) {
        const sum = new Array<number>(16).fill(0)
        let total = 0
        for (const { names, shares } of sets) {
          names.getElement(v, element)
          shares.getElement(v, share)
          for (let k = 0; k < 4; k++) {
            const joint = joints[element[k]!]
            if (!joint || !(share[k]! > 0)) continue
            total += share[k]!
            for (let c = 0; c < 16; c++) sum[c]! += joint[c]! * share[k]!
          }
        }
        if (!(total > 0)) continue
        const own = sum.map(value => value / total)
        const at = v * 3
        positions.set(transformPoint(own, [positions[at]!, positions[at + 1]!, positions[at + 2]!]), at)
        if (normals)
          normals.set(
            normalized(transformDirection(normalMatrix(own), [normals[at]!, normals[at + 1]!, normals[at + 2]!])),
            at,
          )
      }
    }
    return { ...part, positions, normals }
  }
}
