// Materials and their textures in the form that the kernels read.
import * as L from '../../kernels/assembly/layout'
import type { Kernels } from '../engine/memory'
import type { Material, SceneObject, Texture } from '../scene/scene'
import { glassTable } from './albedo'

export function placeTextures(
  kernels: Kernels,
  materials: readonly Material[],
  objects: readonly SceneObject[],
  own: (pointer: number) => number,
): { pointer: number; index: (texture: Texture | undefined, srgb: boolean) => number } {
  const found: { texture: Texture; srgb: boolean }[] = []
  const index = (texture: Texture | undefined, srgb: boolean): number => {
    if (!texture) return -1
    let at = found.findIndex(entry => entry.texture === texture && entry.srgb === srgb)
    if (at < 0) at = found.push({ texture, srgb }) - 1
    return at
  }
  for (const material of materials) {
    index(material.baseTexture, true)
    index(material.emissionTexture, true)
    index(material.metallicRoughnessTexture, false)
    index(material.normalTexture, false)
    index(material.transmissionTexture, false)
    index(material.specular?.texture, false)
    index(material.specular?.colourTexture, true)
    index(material.coat?.texture, false)
    index(material.coat?.roughnessTexture, false)
    index(material.sheen?.colourTexture, true)
    index(material.sheen?.roughnessTexture, false)
  }
  for (const object of objects) for (const print of object.prints ?? []) index(print.texture, true)
  const modes = { repeat: 0, clamp: 1, mirror: 2 }
  const pixels = new Map<Texture['pixels'], number>()
  const words = new Int32Array(Math.max(1, found.length) * (L.TEXTURE_STRIDE / 4))
  found.forEach(({ texture, srgb }, i) => {
    if (!pixels.has(texture.pixels)) pixels.set(texture.pixels, own(kernels.place(texture.pixels)))
    const at = i * (L.TEXTURE_STRIDE / 4)
    words.set(
      [
        pixels.get(texture.pixels)!,
        texture.width,
        texture.height,
        texture.pixels instanceof Float32Array ? 2 : srgb ? 1 : 0,
        modes[texture.wrapS],
        modes[texture.wrapT],
        (texture.set ?? 0) | (texture.move ? 2 : 0),
      ],
      at,
    )
    if (texture.move) new Float32Array(words.buffer).set(texture.move, at + (L.TEXTURE_MOVE >> 2))
  })
  return { pointer: own(kernels.place(words)), index }
}

/** Sheets rougher than this scatter what goes through them; smoother ones are panes. */
const PANE_ROUGHNESS = 0.1
export function glassOf({ transmission = 0, solid, roughness, metallicRoughnessTexture }: Material): number {
  if (!(transmission > 0)) return 0
  return solid
    ? L.GLASS_SOLID
    : roughness > PANE_ROUGHNESS || (metallicRoughnessTexture && roughness > 0)
      ? L.GLASS_SHEET
      : L.GLASS_PANE
}

export function placeMaterials(
  kernels: Kernels,
  materials: Material[],
  texture: (texture: Texture | undefined, srgb: boolean) => number,
  own: (pointer: number) => number,
): number {
  const stride = L.MATERIAL_STRIDE / 4
  const words = new Int32Array(Math.max(1, materials.length) * stride)
  const floats = new Float32Array(words.buffer)
  materials.forEach((material, i) => {
    const at = i * stride
    floats.set(material.baseColour, at + (L.MATERIAL_BASE >> 2))
    floats[at + (L.MATERIAL_METALLIC >> 2)] = material.metallic
    floats[at + (L.MATERIAL_ROUGHNESS >> 2)] = material.roughness
    floats.set(material.emission, at + (L.MATERIAL_EMISSION >> 2))
    words[at + (L.MATERIAL_ALPHA_MODE >> 2)] =
      material.alphaMode === 'opaque' ? 0 : material.alphaMode === 'mask' ? 1 : 2
    floats[at + (L.MATERIAL_CUTOFF >> 2)] = material.alphaCutoff
    floats[at + (L.MATERIAL_NORMAL_SCALE >> 2)] = material.normalScale
    words[at + (L.MATERIAL_TEXTURE_BASE >> 2)] = texture(material.baseTexture, true)
    words[at + (L.MATERIAL_TEXTURE_ROUGHNESS >> 2)] = texture(material.metallicRoughnessTexture, false)
    words[at + (L.MATERIAL_TEXTURE_NORMAL >> 2)] = texture(material.normalTexture, false)
    words[at + (L.MATERIAL_TEXTURE_EMISSION >> 2)] = texture(material.emissionTexture, true)
    words[at + (L.MATERIAL_DOUBLE_SIDED >> 2)] = material.doubleSided ? 1 : 0
    floats[at + (L.MATERIAL_TRANSMISSION >> 2)] = material.transmission ?? 0
    floats[at + (L.MATERIAL_IOR >> 2)] = Math.max(1, material.ior ?? 1.5)
    words[at + (L.MATERIAL_GLASS >> 2)] = glassOf(material)
    words[at + (L.MATERIAL_TEXTURE_TRANSMISSION >> 2)] = texture(material.transmissionTexture, false)
    const index = Math.max(1, material.ior ?? 1.5)
    const glass = glassOf(material)
    if (glass === L.GLASS_SOLID || glass === L.GLASS_SHEET)
      words[at + (L.MATERIAL_GLASS_TABLE >> 2)] = own(kernels.place(glassTable(index, glass === L.GLASS_SHEET)))
    const straight = ((index - 1) / (index + 1)) ** 2
    floats.set(
      (material.specular?.colour ?? [1, 1, 1]).map(value => Math.min(1, straight * value)),
      at + (L.MATERIAL_SPECULAR >> 2),
    )
    floats[at + (L.MATERIAL_SPECULAR_STRENGTH >> 2)] = material.specular?.strength ?? 1
    floats[at + (L.MATERIAL_COAT >> 2)] = material.coat?.strength ?? 0
    floats[at + (L.MATERIAL_COAT_ALPHA >> 2)] = Math.max(1e-3, (material.coat?.roughness ?? 0) ** 2)
    floats.set(material.sheen?.colour ?? [0, 0, 0], at + (L.MATERIAL_SHEEN >> 2))
    floats[at + (L.MATERIAL_SHEEN_ALPHA >> 2)] = Math.max(1e-3, (material.sheen?.roughness ?? 0) ** 2)
    const { specular, coat, sheen } = material
    const pictures = [
      [L.MATERIAL_TEXTURE_SPECULAR, specular?.texture, false],
      [L.MATERIAL_TEXTURE_SPECULAR_COLOUR, specular?.colourTexture, true],
      [L.MATERIAL_TEXTURE_COAT, coat?.texture, false],
      [L.MATERIAL_TEXTURE_COAT_ROUGHNESS, coat?.roughnessTexture, false],
      [L.MATERIAL_TEXTURE_SHEEN, sheen?.colourTexture, true],
      [L.MATERIAL_TEXTURE_SHEEN_ROUGHNESS, sheen?.roughnessTexture, false],
    ] as const
    for (const [field, picture, srgb] of pictures) words[at + (field >> 2)] = texture(picture, srgb)
    words[at + (L.MATERIAL_GLOSS_PICTURES >> 2)] = pictures.some(([, picture]) => picture) ? 1 : 0
    floats.set(material.solid?.absorption ?? [0, 0, 0], at + (L.MATERIAL_ABSORB >> 2))
  })
  return kernels.place(words)
}
