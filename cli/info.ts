import { attributeValue, boxHeight, boxWidth, isExr, readExrHeaders } from '../core/formats/exr/exr'
import { isGltf, readGltf } from '../core/formats/gltf/gltf'
import { guessEncoding } from '../core/formats/picture/describe'
import { readPicture } from '../core/formats/picture/picture'
import { useNode } from '../host/engine'
import { parse, readInput } from './arguments'
import type { Command } from './command'

export const info: Command = {
  usage: 'info FILE',
  help: 'What a picture, pass file or scene holds, as JSON.',
  async run(args) {
    const {
      files: [file],
    } = parse(args, ['FILE'], [])
    useNode()
    const bytes = await readInput(file!)
    process.stdout.write(`${JSON.stringify(await describe(bytes), null, 2)}\n`)
  },
}

async function describe(bytes: Uint8Array): Promise<object> {
  if (isExr(bytes)) {
    const parts = readExrHeaders(bytes).parts.map(header => ({
      ...(header.name === undefined ? {} : { name: header.name }),
      ...(header.deep ? { deep: true } : {}),
      ...(header.tiles ? { tiles: header.tiles } : {}),
      dataWindow: header.dataWindow,
      displayWindow: header.displayWindow,
      width: boxWidth(header.dataWindow),
      height: boxHeight(header.dataWindow),
      compression: header.compression,
      channels: header.channels.map(({ name, type }) => ({ name, type })),
      attributes: Object.fromEntries(
        header.attributes.map(attribute => [
          attribute.name,
          { type: attribute.type, value: attributeValue(attribute) },
        ]),
      ),
    }))
    return { format: 'exr', parts: parts.length, ...parts[0], ...(parts.length > 1 ? { others: parts.slice(1) } : {}) }
  }
  if (isGltf(bytes)) {
    const scene = await readGltf(bytes)
    return {
      format: 'gltf',
      objects: scene.objects.map(object => ({
        name: object.name,
        role: object.role,
        triangles: object.parts.reduce((sum, part) => sum + part.indices.length / 3, 0),
      })),
      materials: scene.materials.map(material => material.name),
      cameras: scene.cameras.map(camera => ({
        name: camera.name,
        focalLength: camera.focalLength,
        sensorWidth: camera.sensorWidth,
      })),
      lights: scene.lights.map(light => ({ name: light.name, kind: light.kind })),
      notes: scene.notes,
    }
  }
  const picture = await readPicture(bytes)
  const type = picture.float ? (picture.bits === 16 ? 'half' : 'float') : `uint${picture.bits}`
  const window = { xMin: 0, yMin: 0, xMax: picture.width - 1, yMax: picture.height - 1 }
  return {
    format: picture.format,
    parts: 1,
    dataWindow: window,
    displayWindow: window,
    width: picture.width,
    height: picture.height,
    channels: picture.channels.map(name => ({ name, type })),
    attributes: {},
    encoding: guessEncoding(picture),
  }
}
