// Pictures of the handbook that the choosers cannot show: of what needs a file, a pass, an edge or a click that the
// demo's shot has not. Made by the command line from the demo's files: npm run entries
import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { root } from './setup.mjs'

/** As large as those of the choosers. */
const [WIDTH, HEIGHT] = [280, 168]

const folder = mkdtempSync(join(tmpdir(), 'northmist-entries-'))
const at = name => join(folder, name)
const northmist = (...args) =>
  execFileSync(process.execPath, [join(root, 'bin/northmist.mjs'), ...args], { stdio: 'pipe' })
const ffmpeg = (...args) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args])
/** A file of the demo, in pieces where it is large, in the folder. */
const demo = name => {
  const assets = join(root, 'demo/assets')
  const pieces = existsSync(join(assets, name))
    ? [name]
    : readdirSync(assets)
        .filter(file => file.startsWith(`${name}.`))
        .sort()
  writeFileSync(at(name), Buffer.concat(pieces.map(piece => readFileSync(join(assets, piece)))))
  return at(name)
}
/** A scene whose camera goes from one place to another within its first second. */
function withGoingCamera(file, from, to) {
  const bytes = readFileSync(file)
  const jsonEnd = 20 + bytes.readUInt32LE(12)
  const json = JSON.parse(bytes.subarray(20, jsonEnd).toString())
  const held = bytes.subarray(jsonEnd + 8)
  const more = Buffer.from(Float32Array.of(0, 1, ...from, ...to).buffer)
  json.buffers[0].byteLength = held.length + more.length
  const view = json.bufferViews.push({ buffer: 0, byteOffset: held.length, byteLength: more.length }) - 1
  const accessor = (byteOffset, type, more = {}) =>
    json.accessors.push({ bufferView: view, byteOffset, componentType: 5126, count: 2, type, ...more }) - 1
  const [input, output] = [accessor(0, 'SCALAR', { min: [0], max: [1] }), accessor(8, 'VEC3')]
  const node = json.nodes.findIndex(({ camera }) => camera !== undefined)
  json.animations = [
    { samplers: [{ input, output }], channels: [{ sampler: 0, target: { node, path: 'translation' } }] },
  ]
  const text = Buffer.from(JSON.stringify(json))
  const padded = Buffer.concat([text, Buffer.alloc(-text.length & 3, ' ')])
  const chunk = (type, data) => {
    const head = Buffer.alloc(8)
    head.writeUInt32LE(data.length)
    head.write(type, 4, 'latin1')
    return Buffer.concat([head, data])
  }
  const body = Buffer.concat([chunk('JSON', padded), chunk('BIN\0', Buffer.concat([held, more]))])
  const head = Buffer.from(bytes.subarray(0, 12))
  head.writeUInt32LE(12 + body.length, 8)
  writeFileSync(at('going.glb'), Buffer.concat([head, body]))
  return at('going.glb')
}
const out = (what, id) => join(root, 'docs/entries', `${what}-${id}.jpg`)
const FIT = `scale=${WIDTH}:${HEIGHT}:force_original_aspect_ratio=increase:flags=area,crop=${WIDTH}:${HEIGHT}`
/** Left of a line without, right of it with. */
const divided = (id, without, withIt, fit = FIT) =>
  ffmpeg(
    ...['-i', without, '-i', withIt, '-filter_complex'],
    `[0]${fit},crop=${WIDTH / 2 - 1}:${HEIGHT}:0:0[a];[1]${fit},crop=${WIDTH / 2 - 1}:${HEIGHT}:${WIDTH / 2 + 1}:0[b];` +
      `color=white:s=2x${HEIGHT},format=rgb24[l];[a][l][b]hstack=3`,
    ...['-frames:v', '1', '-q:v', '3', out('treatment', id)],
  )
const matte = (id, from, line) => {
  northmist('matte', from, '--line', line, '--out', at('matte.exr'))
  // A matte is numbers: 0 black, 1 white
  northmist('convert', at('matte.exr'), at('matte.png'), '--encoding-in', 'data', '--encoding-out', 'data')
  ffmpeg('-i', at('matte.png'), '-vf', FIT, '-frames:v', '1', '-q:v', '3', out('matte', id))
}
try {
  const house = demo('bell house.jpg')
  // Evening: lights warm, shadows blue, as a table of 17 × 17 × 17
  const steps = Array.from({ length: 17 }, (_, i) => i / 16)
  const rows = steps.flatMap(b =>
    steps.flatMap(g =>
      steps.map(r => {
        const light = 0.2126 * r + 0.7152 * g + 0.0722 * b
        const toned = [r + 0.16 * light * (1 - light) + 0.1 * light ** 2, g, b + 0.22 * (1 - light) ** 2 - 0.14 * light]
        return toned.map(value => Math.min(1, Math.max(0, value)).toFixed(5)).join(' ')
      }),
    ),
  )
  writeFileSync(at('evening.cube'), `LUT_3D_SIZE 17\n${rows.join('\n')}\n`)
  northmist('treat', house, '--out', at('lut.png'), '--line', `lut table=${at('evening.cube')}`)
  divided('lut', house, at('lut.png'))
  northmist(
    ...['treat', house, '--out', at('look.png'), '--line', 'balance from=5200 to=7600'],
    ...['--line', 'contrast amount=1.35', '--line', 'saturation amount=0.55', '--line', 'vignette amount=0.6'],
  )
  divided('look', house, at('look.png'))
  // Frames after one another
  ffmpeg('-i', demo('survey.mp4'), '-frames:v', '21', at('frame.%d.png'))
  northmist(
    ...['treat', at('frame.#.png'), '--frame', '11', '--out', at('average.png')],
    ...['--line', 'average before=8 after=8'],
  )
  divided('average', at('frame.11.png'), at('average.png'))
  // Each grain of its own, over five frames
  ffmpeg('-i', at('frame.11.png'), '-vf', 'crop=560:336', at('near.11.png'))
  for (const frame of [9, 10, 12, 13])
    ffmpeg('-i', at(`frame.${frame}.png`), '-vf', 'crop=560:336', at(`near.${frame}.png`))
  const noise = 'amount=0.22 channels=1,0.85,1.25 growth=0.6'
  for (const frame of [9, 10, 11, 12, 13])
    northmist(
      ...['treat', at('near.#.png'), '--frame', String(frame), '--out', at(`noisy.${frame}.png`)],
      ...['--line', `grain ${noise} size=0`],
    )
  northmist(
    ...['treat', at('noisy.#.png'), '--frame', '11', '--out', at('quiet.png')],
    ...['--line', `over_frames ${noise} before=2 after=2 search=2 patch=1 smoothing=1.3`],
  )
  divided('over_frames', at('noisy.11.png'), at('quiet.png'))
  // Worked on clean, with its grain laid back: left without the last
  const worked = [
    ...['--line', `degrain ${noise} size=0 search=5 patch=1 smoothing=1.2`, '--line', 'contrast amount=1.5'],
    ...['--line', 'unsharp amount=1.2 radius=2'],
  ]
  northmist('treat', at('noisy.11.png'), '--out', at('clean.png'), ...worked)
  northmist('treat', at('noisy.11.png'), '--out', at('back.png'), ...worked, '--line', 'grain_back amount=1')
  divided('grain_back', at('clean.png'), at('back.png'))
  // Lamps through an opening like a leaf
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'color=black:s=64x64', '-vf'],
    ...["format=gray,geq=lum='255*lt(hypot(X-14,Y-32),36)*lt(hypot(X-50,Y-32),36)'", '-frames:v', '1', at('leaf.png')],
  )
  northmist('treat', house, '--out', at('leaves.png'), '--line', `shaped picture=${at('leaf.png')} size=46`)
  divided('shaped', house, at('leaves.png'))
  northmist(
    ...['treat', house, '--out', at('map.png'), '--line', 'blur_map radius=6 least=0'],
    ...['--matte', 'gradient from_x=0 from_y=350 to_x=0 to_y=150'],
  )
  divided('blur_map', house, at('map.png'))
  // The dark house before the bright sky
  northmist(
    ...['treat', house, '--out', at('wrap.png'), '--line', 'light_wrap amount=2 size=14'],
    ...['--matte', 'brightness low=0 high=0.06 soft=0.03'],
  )
  divided('light_wrap', house, at('wrap.png'))
  const people = demo('figures on the quay.png')
  // On grey ground, with room for what they throw on it
  ffmpeg('-i', people, '-vf', 'format=rgba,pad=900:540:300:30:color=black@0', at('people.png'))
  northmist(
    ...['treat', at('people.png'), '--out', at('standing.png')],
    ...['--line', 'contact amount=0.8 foot=0.896 length=-0.35 lean=0.75 size=9'],
  )
  for (const name of ['people', 'standing'])
    ffmpeg(
      ...['-i', at(`${name}.png`), '-filter_complex', 'color=0x8a8f94:s=900x540[ground];[ground][0]overlay=shortest=1'],
      ...['-frames:v', '1', at(`${name} on ground.png`)],
    )
  divided('contact', at('people on ground.png'), at('standing on ground.png'))
  northmist('treat', people, '--out', at('straight.png'), '--line', 'premultiply how=divided')
  divided('premultiply', people, at('straight.png'))

  northmist(
    ...['render', demo('bell house.glb'), '--out', at('house.exr'), '--size', `${WIDTH * 2}x${HEIGHT * 2}`],
    ...['--samples', '64', '--passes', 'beauty,alpha,normal,normal_camera,facing,depth,position'],
  )
  matte('facing', at('house.exr'), 'facing')
  // Of passes, on the house under its sky
  northmist(
    ...['render', demo('bell house.glb'), '--out', at('lit.exr'), '--size', `${WIDTH * 2}x${HEIGHT * 2}`],
    ...['--environment', demo('blue hour.hdr'), '--samples', '96', '--passes', 'beauty,alpha,mist,uv,occlusion'],
  )
  const bright = ['--line', 'exposure stops=1.5']
  // Light beside the cover of things is light: JPEG has no cover to divide by
  northmist('treat', at('lit.exr'), '--out', at('lit.jpg'), ...bright)
  for (const [id, line] of [
    ['mist_glow', 'mist_glow amount=0.4 size=12'],
    ['crease_tint', 'crease_tint amount=1 tint=0.5,0.25,0.15 power=1'],
    ['uv', 'uv across=2 down=2'],
  ]) {
    northmist('treat', at('lit.exr'), '--out', at(`${id}.jpg`), '--passes', at('lit.exr'), '--line', line, ...bright)
    divided(id, at('lit.jpg'), at(`${id}.jpg`))
  }
  // By a boat that goes by
  northmist(
    ...[
      'render',
      withGoingCamera(demo('bell house.glb'), [0.55, 1.62, -1], [3.75, 1.62, -1]),
      '--out',
      at('going.exr'),
    ],
    ...['--size', `${WIDTH * 2}x${HEIGHT * 2}`, '--environment', demo('blue hour.hdr'), '--samples', '96'],
    ...['--time', '0.5', '--rate', '12', '--passes', 'beauty,depth,motion_forward,motion_back'],
  )
  northmist('treat', at('going.exr'), '--out', at('going still.png'), ...bright)
  northmist(
    ...['treat', at('going.exr'), '--out', at('going.png'), '--passes', at('going.exr')],
    ...['--line', 'motion_blur shutter=180', ...bright],
  )
  divided('motion_blur', at('going still.png'), at('going.png'))
  northmist('treat', house, '--out', at('house with it.exr'), '--line', 'exposure stops=0')
  matte('key', at('house with it.exr'), 'key screen=0.2,0.27,0.4 by=its light black=0.35 white=0.8')
  matte('change', at('house with it.exr'), `change picture=${demo('quay.png')} more=1.2 soft=0.6`)
  matte('picture', at('house with it.exr'), `picture picture=${people} channel=alpha`)
} finally {
  rmSync(folder, { recursive: true, force: true })
}
