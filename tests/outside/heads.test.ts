// What heads of files say: sizes of pictures as OpenImageIO (Debian) wrote them, the colour of videos (ITU-T H.273).
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { pictureSize } from '../../core/formats/picture/size'
import { videoEncoding } from '../../host/clips'
import { scratchFolder } from '../python'

const folder = scratchFolder()

it('sizes are told from the head alone, as OpenImageIO wrote it', () => {
  for (const [name, args] of [
    ['s.png', []],
    ['s.exr', ['-d', 'half']],
    ['s.jpg', ['--ch', 'R,G,B']],
    ['s.tif', ['-d', 'uint16', '--compression', 'lzw']],
    ['s.hdr', ['--ch', 'R,G,B']],
  ] as [string, string[]][]) {
    const path = join(folder, name)
    execFileSync('oiiotool', ['--pattern', 'noise', '137x61', '4', ...args, '-o', path])
    // A TIFF may keep its directory at its end
    const head = readFileSync(path).subarray(0, name === 's.tif' ? undefined : 4096)
    expect(pictureSize(new Uint8Array(head)), name).toEqual({ width: 137, height: 61 })
  }
  expect(() => pictureSize(new Uint8Array(100))).toThrow(/no picture/)
})

it('a video is read as it says (ITU-T H.273)', () => {
  expect(
    [
      ['smpte2084', 'bt2020'],
      ['arib-std-b67', 'bt2020'],
      ['bt709', 'bt709'],
      ['bt2020-10', 'bt2020'],
      ['iec61966-2-1', 'bt709'],
      [undefined, undefined],
      ['bt709', 'smpte432'],
    ].map(([transfer, primaries]) => videoEncoding({ transfer, primaries }).encoding),
  ).toEqual(['pq', 'hlg', 'rec709', 'rec2020', 'srgb', 'rec709', 'p3'])
})
