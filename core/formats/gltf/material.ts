// Materials and textures of a glTF file.
import type { Material as GltfMaterial, Root, Texture as GltfTexture, TextureInfo } from '@gltf-transform/core'
import type {
  Clearcoat,
  EmissiveStrength,
  IOR,
  Sheen,
  Specular,
  Transform,
  Transmission,
  Volume,
} from '@gltf-transform/extensions'
import type { Material, Texture } from '../../scene/scene'
import type { Vector3 } from '../../scene/vector'
import { BadInput } from '../errors'
import { isKtx2 } from './codecs'
import { isPng, readPng, type CodedPicture } from '../png/png'
import { isJpeg, readJpeg } from '../jpeg/jpeg'

type TextureOf = (source: GltfTexture | null, info: TextureInfo | null) => Texture | undefined

/** Unpacks a KTX2 picture. Throws BadInput. */
export type UnpackKtx2 = (bytes: Uint8Array) => CodedPicture

/** plain: without their pictures. */
export function readMaterials(root: Root, notes: string[], ktx2?: UnpackKtx2, plain = false): Material[] {
  const textures = new Map<string, Texture | undefined>()
  const pictures = new Map<GltfTexture, CodedPicture | undefined>()
  const said = new Set<string>()
  const note = (text: string): void => {
    if (!said.has(text)) {
      said.add(text)
      notes.push(text)
    }
  }
  const texture: TextureOf = (source, info) => {
    if (!source || !info || plain) return undefined
    const transform = info.getExtension<Transform>('KHR_texture_transform')
    const set = transform?.getTexCoord() ?? info.getTexCoord()
    const move = transform && moveOf(transform)
    if (set > 1) note('A texture lies by a third set of surface coordinates; the second is used in its place.')
    const key = JSON.stringify([root.listTextures().indexOf(source), info.getWrapS(), info.getWrapT(), set, move])
    if (!textures.has(key)) {
      if (!pictures.has(source)) pictures.set(source, decodeTexture(source, notes, ktx2))
      const picture = pictures.get(source)
      textures.set(
        key,
        picture && {
          pixels: picture.data as Uint8Array,
          width: picture.width,
          height: picture.height,
          wrapS: wrapMode(info.getWrapS()),
          wrapT: wrapMode(info.getWrapT()),
          ...(set > 0 ? { set: 1 as const } : {}),
          ...(move ? { move } : {}),
        },
      )
    }
    return textures.get(key)
  }
  return root.listMaterials().map((material, index) => {
    const strength =
      material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1
    const emission = material.getEmissiveFactor()
    const [r, g, b, a] = material.getBaseColorFactor()
    const name = material.getName() || `material ${index + 1}`
    const read: Material = {
      name,
      baseColour: [finite(r), finite(g), finite(b), finite(a)],
      metallic: finite(material.getMetallicFactor()),
      roughness: finite(material.getRoughnessFactor()),
      emission: [finite(emission[0]) * strength, finite(emission[1]) * strength, finite(emission[2]) * strength],
      alphaMode: material.getAlphaMode().toLowerCase() as Material['alphaMode'],
      alphaCutoff: material.getAlphaCutoff(),
      normalScale: material.getNormalScale(),
      doubleSided: material.getDoubleSided(),
      baseTexture: texture(material.getBaseColorTexture(), material.getBaseColorTextureInfo()),
      metallicRoughnessTexture: texture(
        material.getMetallicRoughnessTexture(),
        material.getMetallicRoughnessTextureInfo(),
      ),
      normalTexture: texture(material.getNormalTexture(), material.getNormalTextureInfo()),
      emissionTexture: texture(material.getEmissiveTexture(), material.getEmissiveTextureInfo()),
      ...glassOf(material, texture, notes),
      ...glossOf(material, texture, name, note),
    }
    if (!material.getExtension('KHR_materials_unlit')) return read
    // Unlit: shows its colour whatever the light
    return {
      ...read,
      baseColour: [0, 0, 0, read.baseColour[3]],
      emission: [read.baseColour[0], read.baseColour[1], read.baseColour[2]],
      emissionTexture: read.baseTexture,
      metallic: 0,
      roughness: 1,
      specular: { strength: 0, colour: [1, 1, 1] },
    }
  })
}

/** KHR_texture_transform: moved after turned after scaled (the matrix of its specification). */
function moveOf(transform: Transform): number[] {
  const [x, y] = transform.getOffset()
  const angle = transform.getRotation()
  const [sx, sy] = transform.getScale()
  const c = Math.cos(angle)
  const s = Math.sin(angle)
  return [c * sx, s * sy, x, -s * sx, c * sy, y].map(finite)
}

/**
 * Strength and colour of the mirroring, lacquer and cloth (KHR_materials_specular, _clearcoat, _sheen). The lacquer
 * lies by the normals of what is below it.
 */
function glossOf(
  material: GltfMaterial,
  texture: TextureOf,
  name: string,
  note: (text: string) => void,
): Partial<Material> {
  const specular = material.getExtension<Specular>('KHR_materials_specular')
  const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat')
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen')
  if (coat?.getClearcoatNormalTexture())
    note(`The clearcoat of ${name} lies by the surface’s own normals: its normal picture is not used.`)
  const share = (value: number): number => Math.min(1, Math.max(0, finite(value)))
  return {
    ...(specular
      ? {
          specular: {
            strength: share(specular.getSpecularFactor()),
            colour: specular.getSpecularColorFactor().map(value => Math.max(0, finite(value))) as Vector3,
            texture: texture(specular.getSpecularTexture(), specular.getSpecularTextureInfo()),
            colourTexture: texture(specular.getSpecularColorTexture(), specular.getSpecularColorTextureInfo()),
          },
        }
      : {}),
    ...(coat && coat.getClearcoatFactor() > 0
      ? {
          coat: {
            strength: share(coat.getClearcoatFactor()),
            roughness: share(coat.getClearcoatRoughnessFactor()),
            texture: texture(coat.getClearcoatTexture(), coat.getClearcoatTextureInfo()),
            roughnessTexture: texture(coat.getClearcoatRoughnessTexture(), coat.getClearcoatRoughnessTextureInfo()),
          },
        }
      : {}),
    ...(sheen && Math.max(...sheen.getSheenColorFactor()) > 0
      ? {
          sheen: {
            colour: sheen.getSheenColorFactor().map(share) as Vector3,
            roughness: share(sheen.getSheenRoughnessFactor()),
            colourTexture: texture(sheen.getSheenColorTexture(), sheen.getSheenColorTextureInfo()),
            roughnessTexture: texture(sheen.getSheenRoughnessTexture(), sheen.getSheenRoughnessTextureInfo()),
          },
        }
      : {}),
  }
}

/**
 * Transmission, index and volume of a material (KHR_materials_transmission, _ior, _volume); nothing where it has none.
 */
function glassOf(material: GltfMaterial, texture: TextureOf, notes: string[]): Partial<Material> {
  const index = material.getExtension<IOR>('KHR_materials_ior')?.getIOR()
  const glass = material.getExtension<Transmission>('KHR_materials_transmission')
  const volume = material.getExtension<Volume>('KHR_materials_volume')
  // An index of 0 stands for a surface without reflection of its own in that extension; there is nothing between it and
  // 1
  const ior = index === undefined ? undefined : Math.min(5, Math.max(1, finite(index)))
  if (!glass || !(glass.getTransmissionFactor() > 0)) return ior === undefined ? {} : { ior }
  const out: Partial<Material> = {
    ior,
    transmission: Math.min(1, finite(glass.getTransmissionFactor())),
    transmissionTexture: texture(glass.getTransmissionTexture(), glass.getTransmissionTextureInfo()),
  }
  if (volume && volume.getThicknessFactor() > 0) {
    const distance = volume.getAttenuationDistance()
    const colour = volume.getAttenuationColor()
    out.solid = {
      absorption: colour.map(value =>
        Number.isFinite(distance) && distance > 0
          ? -Math.log(Math.min(1, Math.max(1e-4, finite(value)))) / distance
          : 0,
      ) as Vector3,
    }
    if (volume.getThicknessTexture())
      notes.push(
        `The thickness picture of ${material.getName() || 'a material'} is not used: light is followed through the body itself.`,
      )
  }
  return out
}

export const finite = (value: number): number => (Number.isFinite(value) ? value : 0)
const wrapMode = (mode: number): Texture['wrapS'] => (mode === 33071 ? 'clamp' : mode === 33648 ? 'mirror' : 'repeat')

function decodeTexture(source: GltfTexture, notes: string[], ktx2?: UnpackKtx2): CodedPicture | undefined {
  const bytes = source.getImage()
  const label = source.getName() || source.getURI() || 'a texture'
  if (!bytes) {
    notes.push(`The picture of ${label} is not there; its material goes without.`)
    return undefined
  }
  const read = isPng(bytes) ? readPng : isJpeg(bytes) ? readJpeg : isKtx2(bytes) ? ktx2 : undefined
  if (!read) {
    notes.push(`The picture of ${label} is neither PNG, JPEG nor KTX2; its material goes without.`)
    return undefined
  }
  let picture: CodedPicture
  try {
    picture = read(bytes)
  } catch (error) {
    throw new BadInput(`The picture of ${label} cannot be read: ${(error as Error).message}`)
  }
  const { width, height, channels, maximum, data } = picture
  const pixels = new Uint8Array(width * height * 4)
  const scale = 255 / maximum
  for (let i = 0; i < width * height; i++) {
    const grey = channels < 3
    for (let c = 0; c < 3; c++) pixels[i * 4 + c] = Math.round(data[i * channels + (grey ? 0 : c)]! * scale)
    pixels[i * 4 + 3] =
      channels === 4
        ? Math.round(data[i * 4 + 3]! * scale)
        : channels === 2
          ? Math.round(data[i * 2 + 1]! * scale)
          : 255
  }
  return { width, height, channels: 4, maximum: 255, data: pixels }
}
