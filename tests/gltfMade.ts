// A glTF document made by hand, to be changed by tests.
import { Document, WebIO, type Node } from '@gltf-transform/core'
import { expect } from 'vitest'
import type { Scene } from '../core/scene/scene'
import { transformPoint, type Vector3 } from '../core/scene/vector'
import * as THREE from 'three'

export const io = (extensions: Parameters<WebIO['registerExtensions']>[0] = []): WebIO =>
  new WebIO().registerExtensions(extensions)
export interface Made {
  document: Document
  mesh: ReturnType<Document['createMesh']>
  primitive: ReturnType<Document['createPrimitive']>
  node: Node
  accessor: (
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint16Array | Uint8Array,
  ) => ReturnType<Document['createAccessor']>
}
/** A strip of two squares upright along y, five rows of two vertices would be more than it takes: six vertices. */
export function made(): Made {
  const document = new Document()
  const buffer = document.createBuffer()
  const accessor: Made['accessor'] = (type, array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setAttribute(
      'POSITION',
      accessor('VEC3', Float32Array.from([-1, 0, 0, 1, 0, 0, -1, 1, 0, 1, 1, 0, -1, 2, 0, 1, 2, 0])),
    )
    .setAttribute(
      'NORMAL',
      accessor(
        'VEC3',
        Float32Array.from({ length: 18 }, (_, i) => (i % 3 === 2 ? 1 : 0)),
      ),
    )
    .setIndices(accessor('SCALAR', Uint16Array.from([0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4])))
  const mesh = document.createMesh('strip').addPrimitive(primitive)
  const node = document.createNode('strip').setMesh(mesh)
  document.createScene().addChild(node)
  return { document, mesh, primitive, node, accessor }
}
export const worldOf = (scene: Scene, name: string): Vector3[] => {
  const object = scene.objects.find(entry => entry.name === name)!
  const out: Vector3[] = []
  for (const part of object.parts)
    for (let i = 0; i < part.positions.length; i += 3)
      out.push(transformPoint(object.matrix, [part.positions[i]!, part.positions[i + 1]!, part.positions[i + 2]!]))
  return out
}
/** A picture of one colour: R 128, G 64, B 200, A 100. */
export const flat = {
  width: 1,
  height: 1,
  pixels: Uint8Array.from([128, 64, 200, 100]),
  wrapS: 'repeat',
  wrapT: 'repeat',
} as const
export const code = (value: number): number => value / 255
/** IEC 61966-2-1. */
export const linear = (value: number): number => ((value / 255 + 0.055) / 1.055) ** 2.4
export const close = (a: readonly number[], b: readonly number[], digits = 4): void =>
  a.forEach((value, i) => expect(value).toBeCloseTo(b[i]!, digits))
export function animate(
  { document, accessor }: Made,
  node: Node,
  path: 'translation' | 'rotation' | 'scale' | 'weights',
  times: number[],
  values: number[],
  how: 'LINEAR' | 'STEP' | 'CUBICSPLINE' = 'LINEAR',
): void {
  const type = path === 'rotation' ? 'VEC4' : path === 'weights' ? 'SCALAR' : 'VEC3'
  const sampler = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', Float32Array.from(times)))
    .setOutput(accessor(type, Float32Array.from(values)))
    .setInterpolation(how)
  document
    .createAnimation()
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler))
}
export const turn = (axis: [number, number, number], degrees: number): number[] =>
  new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(...axis), (degrees * Math.PI) / 180).toArray()
