/* eslint-disable @typescript-eslint/no-explicit-any -- damaged files and documents have no type */
// The command line as a user calls it: exit codes, one line on standard error, no half-written files.
import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { emptyWindow, readExr, readExrParts, writeExrParts } from '../core/formats/exr/exr'
import { readGltf } from '../core/formats/gltf/gltf'
import { writeHdr } from '../core/formats/hdr/hdr'
import { readPicture } from '../core/formats/picture/picture'
import { newDocument } from '../core/shot/document'
import { bellHouse } from '../demo/house'
import { useNode } from '../host/engine'
import { scratchFolder } from './python'

useNode()
const folder = scratchFolder()
const call = (...args: string[]) => spawnSync(process.execPath, ['bin/northmist.mjs', ...args], { encoding: 'utf8' })
const fails = (says: RegExp, ...args: string[]): void => {
  const result = call(...args)
  expect(result.status).toBe(2)
  expect(result.stderr).toMatch(says)
  expect(result.stderr.trim().split('\n')).toHaveLength(1)
}

/** A triangle on the ground in front of a camera, as .gltf with its buffer inside. */
function triangle(change: (json: Record<string, any>) => void = () => {}): string {
  const positions = Buffer.from(Float32Array.from([-2, 0, -3, 2, 0, -3, 0, 2, -5]).buffer)
  const indices = Buffer.from(Uint32Array.from([0, 1, 2]).buffer)
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [
      { name: 'sail', mesh: 0 },
      { name: 'eye', camera: 0, translation: [0, 1, 0] },
    ],
    cameras: [{ type: 'perspective', perspective: { yfov: 0.7, aspectRatio: 1.5, znear: 0.1 } }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1, material: 0 }] }],
    materials: [{ name: 'canvas', doubleSided: true }],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [-2, 0, -5], max: [2, 2, -3] },
      { bufferView: 1, componentType: 5125, count: 3, type: 'SCALAR' },
    ],
    bufferViews: [
      { buffer: 0, byteOffset: 0, byteLength: 36 },
      { buffer: 0, byteOffset: 36, byteLength: 12 },
    ],
    buffers: [
      {
        byteLength: 48,
        uri: `data:application/octet-stream;base64,${Buffer.concat([positions, indices]).toString('base64')}`,
      },
    ],
  }
  change(json)
  return JSON.stringify(json)
}
const sail = join(folder, 'sail.gltf')
writeFileSync(sail, triangle())

describe('render', () => {
  const sky = join(folder, 'sky.hdr')
  writeFileSync(sky, writeHdr({ width: 16, height: 8, pixels: new Float32Array(512).fill(1) }))
  const out = join(folder, 'sail.exr')
  it('writes all passes with the channel names of the handbook', () => {
    expect(
      call('render', sail, '--out', out, '--size', '30x20', '--samples', '4', '--environment', sky, '--workers', '2')
        .status,
    ).toBe(0)
    const image = readExr(readFileSync(out))
    const types = Object.fromEntries(image.channels.map(channel => [channel.name, channel.type]))
    for (const name of [
      'R',
      'A',
      'diffuse_direct.R',
      'diffuse_indirect.G',
      'reflection.B',
      'emission.R',
      'environment.R',
      'albedo.R',
      'normal.X',
      'depth.Z',
      'occlusion.Y',
      'shadow.R',
      'cryptoObject00.R',
      'cryptoObject02.A',
      'cryptoMaterial00.R',
    ])
      expect(types[name], name).toBe('float')
    expect(types['object_id.I']).toBe('uint')
  })
  it('gives the same bytes again, and with another number of workers', () => {
    const again = join(folder, 'again.exr')
    call('render', sail, '--out', again, '--size', '30x20', '--samples', '4', '--environment', sky, '--workers', '1')
    expect(readFileSync(again).equals(readFileSync(out))).toBe(true)
  })
  it('renders under a limit of 12 GB of addresses, the same bytes', () => {
    const out = join(folder, 'limited.exr')
    const render = ['render', sail, '--out', out, '--size', '30x20', '--samples', '2', '--workers', '1']
    const limited = spawnSync('bash', ['-c', 'ulimit -v 12582912; exec node bin/northmist.mjs "$@"', '-', ...render], {
      encoding: 'utf8',
    })
    expect([limited.status, limited.stderr]).toEqual([0, ''])
    const bytes = readFileSync(out)
    expect(call(...render).status).toBe(0)
    expect(readFileSync(out).equals(bytes)).toBe(true)
  })
  it('renders one pass alone', () => {
    const depth = join(folder, 'depth.exr')
    expect(call('render', sail, '--out', depth, '--size', '30x20', '--samples', '1', '--passes', 'depth').status).toBe(
      0,
    )
    expect(readExr(readFileSync(depth)).channels.map(channel => channel.name)).toEqual(['depth.Z'])
  })
  it('renders through a true lens: the light out of focus, data sharp or not', () => {
    const planes = (...lens: string[]): Record<string, number[]> => {
      const file = join(folder, 'lens.exr')
      const asked = ['--size', '30x20', '--samples', '8', '--passes', 'alpha,normal', ...lens]
      expect(call('render', sail, '--out', file, ...asked).status).toBe(0)
      return Object.fromEntries(
        readExr(readFileSync(file)).channels.map(({ name, data }) => [name, [...(data as Float32Array)]]),
      )
    }
    const pinhole = planes()
    const open = planes('--lens', 'fNumber=0.2 distance=0.5 blades=5')
    expect(open['A']).not.toEqual(pinhole['A'])
    expect(open['normal.Y']).toEqual(pinhole['normal.Y'])
    expect(planes('--lens', 'fNumber=0.2 distance=0.5 sharpData=0')['normal.Y']).not.toEqual(pinhole['normal.Y'])
  })
  it('refuses what is wrong in one line and leaves nothing behind', () => {
    const none = join(folder, 'none.exr')
    fails(/no pass “gloom”/, 'render', sail, '--out', none, '--passes', 'gloom')
    fails(/no camera “moon”; there are eye/, 'render', sail, '--out', none, '--camera', 'moon')
    fails(/no object “mast”; there are sail/, 'render', sail, '--out', none, '--catcher', 'mast')
    fails(/shutter has no value “speed”/, 'render', sail, '--out', none, '--shutter', 'speed=2')
    fails(/moments goes from 2 to 256/, 'render', sail, '--out', none, '--shutter', 'moments=1')
    fails(/--time takes a number from 0 on, not “soon”/, 'render', sail, '--out', none, '--time', 'soon')
    fails(/lens has no value “iso”/, 'render', sail, '--out', none, '--lens', 'iso=400')
    fails(/fNumber goes from 0.1 to 128/, 'render', sail, '--out', none, '--lens', 'fNumber=0')
    fails(/--size is said as/, 'render', sail, '--out', none, '--size', 'big')
    fails(/at most/, 'render', sail, '--out', none, '--size', '900000x900000')
    fails(/no such file/, 'render', join(folder, 'nowhere.glb'), '--out', none)
    fails(
      /cannot be written/,
      'render',
      sail,
      '--out',
      join(folder, 'no/such/place.exr'),
      '--size',
      '4x4',
      '--samples',
      '1',
    )
    fails(/--out is missing/, 'render', sail)
    expect(existsSync(none)).toBe(false)
    expect(readdirSync(folder).filter(name => name.endsWith('.part'))).toEqual([])
  })
})

describe('info and convert', () => {
  it('tell window, channels and types', () => {
    const said = JSON.parse(call('info', join(folder, 'sail.exr')).stdout) as {
      channels: { name: string; type: string }[]
      dataWindow: object
      compression: string
    }
    expect(said.dataWindow).toEqual({ xMin: 0, yMin: 0, xMax: 29, yMax: 19 })
    expect(said.channels).toContainEqual({ name: 'object_id.I', type: 'uint' })
    expect((JSON.parse(call('info', sail).stdout) as { objects: { name: string }[] }).objects[0]!.name).toBe('sail')
  })
  it('keep the parts of a file, each with its channels and types', () => {
    const parts = join(folder, 'two parts.exr')
    const image = (name: string, value: number) => ({
      dataWindow: emptyWindow(3, 2),
      displayWindow: emptyWindow(3, 2),
      compression: 'zip' as const,
      attributes: [],
      channels: [{ name, type: 'float' as const, linear: false, data: new Float32Array(6).fill(value) }],
    })
    writeFileSync(
      parts,
      writeExrParts([
        { name: 'near', image: image('R', 1.25) },
        { name: 'far', image: image('Z', 70000) },
      ]),
    )
    expect(call('convert', parts, join(folder, 'parts out.exr'), '--compression', 'piz').status).toBe(0)
    // As OpenImageIO 2.4 tells it
    const told = execFileSync('oiiotool', ['--info', '-v', '-a', join(folder, 'parts out.exr')], { encoding: 'utf8' })
    expect(told).toContain('2 subimages')
    expect(told).toMatch(/oiio:subimagename: "near"[^]*oiio:subimagename: "far"/)
    expect(told.match(/compression: "piz"/g)).toHaveLength(2)
    expect(
      readExrParts(readFileSync(join(folder, 'parts out.exr'))).map(part => part.image.channels[0]!.data[0]),
    ).toEqual([1.25, 70000])
  })
  it('float TIFF is light, there and back', async () => {
    writeFileSync(
      join(folder, 'light.hdr'),
      writeHdr({ width: 4, height: 3, pixels: Float32Array.from({ length: 48 }, (_, i) => i * 0.3) }),
    )
    expect(call('convert', join(folder, 'light.hdr'), join(folder, 'light.tif')).status).toBe(0)
    expect(call('convert', join(folder, 'light.tif'), join(folder, 'light.exr')).status).toBe(0)
    const there = await readPicture(readFileSync(join(folder, 'light.hdr')))
    const back = await readPicture(readFileSync(join(folder, 'light.exr')))
    there.pixels.forEach((value, i) => expect(Math.abs(back.pixels[i]! - value)).toBeLessThan(1e-5 + value * 1e-5))
  })
  it('build numbered frames and movies of a shot', () => {
    const document = newDocument(32, 16)
    document.frames = { first: 1, last: 3 }
    document.rate = { numerator: 24000, denominator: 1001 }
    const shot = join(folder, 'still.json')
    writeFileSync(shot, JSON.stringify({ name: 'still', document }))
    expect(call('build', shot, '--out', join(folder, 'still ###.png'), '--frames', '1-3x2').status).toBe(0)
    expect(existsSync(join(folder, 'still 001.png')) && existsSync(join(folder, 'still 003.png'))).toBe(true)
    expect(existsSync(join(folder, 'still 002.png'))).toBe(false)
    expect(call('build', shot, '--out', join(folder, 'still.mkv'), '--frames', '1-3').status).toBe(0)
    const told = execFileSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-count_frames',
        '-show_entries',
        'stream=r_frame_rate,nb_read_frames',
        '-of',
        'csv=p=0',
        join(folder, 'still.mkv'),
      ],
      { encoding: 'utf8' },
    )
    expect(told.trim()).toBe('24000/1001,3')
    fails(/ends before it begins/, 'build', shot, '--out', join(folder, 'x.png'), '--frames', '3-1')
    fails(/written with --codec/, 'build', shot, '--out', join(folder, 'x.mp4'), '--codec', 'ffv1')
    fails(/give one of them/, 'build', shot, '--out', join(folder, 'x.png'), '--frames', '1', '--frame', '2')
  })
  it('refuse unknown commands, endings, encodings and compressions', () => {
    fails(/no command “paint”/, 'paint')
    fails(/names no format/, 'convert', join(folder, 'sail.exr'), join(folder, 'a.doc'))
    fails(
      /--encoding-in is one of/,
      'convert',
      join(folder, 'sail.exr'),
      join(folder, 'a.png'),
      '--encoding-in',
      'film',
    )
    fails(
      /--compression is one of/,
      'convert',
      join(folder, 'sail.exr'),
      join(folder, 'a.exr'),
      '--compression',
      'tight',
    )
    fails(/expected FILE/, 'info')
  })
})

describe('damaged and hostile scenes', () => {
  const refused = async (change: (json: Record<string, any>) => void, says: RegExp): Promise<void> => {
    await expect(readGltf(new TextEncoder().encode(triangle(change)))).rejects.toThrow(says)
  }
  it('are refused with what is wrong', async () => {
    await refused(json => {
      json.nodes[0].children = [0]
    }, /its own ancestor/)
    await refused(json => {
      json.nodes[0].children = [99]
    }, /not there/)
    await refused(json => {
      json.accessors[1].count = 4000000
    }, /reaches/)
    await refused(json => {
      json.accessors[0].bufferView = 9
    }, /not there/)
    await refused(json => {
      json.bufferViews[0].byteLength = 1e9
    }, /outside its buffer/)
    await refused(json => {
      json.extensionsRequired = ['EXT_texture_webp']
    }, /EXT_texture_webp/)
    await refused(json => {
      json.buffers[0].uri = `data:application/octet-stream;base64,${Buffer.concat([Buffer.from(Float32Array.from([NaN, 0, 0, 1, 0, 0, 0, 1, 0]).buffer), Buffer.alloc(12)]).toString('base64')}`
    }, /not a number/)
    await refused(json => {
      json.buffers[0].uri = `data:application/octet-stream;base64,${Buffer.concat([Buffer.alloc(36), Buffer.from(Uint32Array.from([0, 1, 77]).buffer)]).toString('base64')}`
    }, /vertex 77/)
    await expect(readGltf(new TextEncoder().encode('{ "asset": '))).rejects.toThrow(/cannot be read/)
    await expect(
      readGltf(Uint8Array.from([0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0, 255, 255, 255, 0, 0, 0, 0, 0])),
    ).rejects.toThrow(/cut off/)
  })
  it('files beside a .gltf are read only from beside it', () => {
    const file = join(folder, 'reach.gltf')
    writeFileSync(
      file,
      triangle(json => {
        json.buffers[0].uri = '../../etc/passwd'
      }),
    )
    fails(/not beside it/, 'render', file, '--out', join(folder, 'x.exr'))
  })
})

it('the demo’s scene is valid glTF by the Khronos validator', async () => {
  const { default: validator } = await import('gltf-validator')
  const { issues } = await validator.validateBytes(await bellHouse())
  expect(issues.numErrors, JSON.stringify(issues.messages.slice(0, 3))).toBe(0)
}, 120000)
