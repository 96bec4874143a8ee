// Grades as files, there and back through OpenColorIO 2.1 (Debian), and what is not one.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readCdl, writeCc } from '../../core/formats/cdl/cdl'
import { cdl } from '../../core/treatment/cdl'
import { python, scratchFolder } from '../python'

const folder = scratchFolder()
const GRADE = {
  id: 'shot <1> & "2"',
  description: 'warmer, a bit > darker',
  slope: [1.2, 1, 0.85] as [number, number, number],
  offset: [0.01, -0.02, 0.0305] as [number, number, number],
  power: [1.1, 0.9, 1] as [number, number, number],
  saturation: 0.8,
}
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

it.each(['ColorCorrection', 'ColorCorrectionCollection', 'ColorDecisionList'])(
  '%s as OpenColorIO writes it',
  format => {
    const path = join(folder, format)
    python(
      `
import json, sys, PyOpenColorIO as O
g = O.GroupTransform()
for i in range(1 if sys.argv[2] == 'ColorCorrection' else 3):
    t = O.CDLTransform(slope=[1.1 + i, 1, .9], offset=[.01, 0, -.02], power=[1, .9, 1.2], sat=.8)
    t.setID('shot %d' % i); g.appendTransform(t)
open(sys.argv[1], 'w').write(g.write(sys.argv[2], O.Config.CreateRaw()))
print(1)`,
      path,
      format,
    )
    const found = readCdl(new Uint8Array(readFileSync(path)))
    expect(found.map(({ id }) => id)).toEqual(
      format === 'ColorCorrection' ? ['shot 0'] : ['shot 0', 'shot 1', 'shot 2'],
    )
    found.forEach(({ slope, offset, power, saturation }, i) => {
      expect(slope.map(value => Number(value.toFixed(6)))).toEqual([1.1 + i, 1, 0.9])
      expect([offset, power, saturation]).toEqual([[0.01, 0, -0.02], [1, 0.9, 1.2], 0.8])
    })
  },
)
it('what is written OpenColorIO reads, with the same numbers', () => {
  const path = join(folder, 'ours.cc')
  writeFileSync(path, writeCc({ ...GRADE, id: 'ours' }))
  const read = python<{ slope: number[]; offset: number[]; power: number[]; sat: number }>(
    `
import json, sys, PyOpenColorIO as O
t = O.CDLTransform.CreateFromFile(sys.argv[1], '')
print(json.dumps({'slope': t.getSlope(), 'offset': t.getOffset(), 'power': t.getPower(), 'sat': t.getSat()}))`,
    path,
  )
  read.slope.forEach((value, i) => expect(value).toBeCloseTo(GRADE.slope[i]!, 6))
  read.offset.forEach((value, i) => expect(value).toBeCloseTo(GRADE.offset[i]!, 6))
  read.power.forEach((value, i) => expect(value).toBeCloseTo(GRADE.power[i]!, 6))
  expect(read.sat).toBeCloseTo(0.8, 6)
})
it('a treatment goes into a file and comes back as it was', () => {
  const values = {
    ...Object.fromEntries(
      ['slope', 'offset', 'power'].flatMap(of => [0, 1, 2].map(i => [`${of}_${'rgb'[i]}`, GRADE[of as 'slope'][i]])),
    ),
    saturation: 0.8,
  } as Record<string, number>
  expect(cdl.files!.read(bytes(cdl.files!.write(values, 'bell house')))).toEqual([{ label: 'bell house', values }])
})

describe('what others write', () => {
  it('namespaces, old names, missing parts and comments are read', () => {
    const [one, two] = readCdl(
      bytes(`<?xml version="1.0"?><!-- made by hand -->
<c:ColorDecisionList xmlns:c="urn:ASC:CDL:v1.2"><c:ColorDecision><c:MediaRef ref="x"/><c:ColorCorrection id="a">
<c:ASC_SOP><c:Slope> 1.5\t1 1 </c:Slope></c:ASC_SOP></c:ColorCorrection></c:ColorDecision>
<c:ColorDecision><c:ColorCorrection><c:SatNode><c:Saturation>0.5</c:Saturation></c:SatNode></c:ColorCorrection></c:ColorDecision></c:ColorDecisionList>`),
    )
    expect(one).toEqual({
      id: 'a',
      description: '',
      slope: [1.5, 1, 1],
      offset: [0, 0, 0],
      power: [1, 1, 1],
      saturation: 1,
    })
    expect(two).toMatchObject({ slope: [1, 1, 1], saturation: 0.5 })
  })
  it.each([
    ['not at all XML', /is not XML/],
    ['<ColorCorrection id="a"><SOPNode>', /is not XML/],
    ['<Other/>', /holds no ColorCorrection/],
    ['<ColorCorrection id="a"/>', /“a” has neither/],
    [
      '<ColorCorrection><SOPNode><Slope>1 2</Slope></SOPNode></ColorCorrection>',
      /Slope of correction 1 should hold 3 numbers, not “1 2”/,
    ],
    ['<ColorCorrection id="b"><SOPNode><Slope>1 x 1</Slope></SOPNode></ColorCorrection>', /Slope of correction “b”/],
    ['<ColorCorrection><SOPNode><Power>1 0 1</Power></SOPNode></ColorCorrection>', /Power .* may not be below/],
    [
      '<ColorCorrection><SatNode><Saturation>-1</Saturation></SatNode></ColorCorrection>',
      /Saturation .* may not be below 0; it is -1/,
    ],
    ['<!DOCTYPE x [<!ENTITY a "aaaa">]><ColorCorrection/>', /declares entities/],
    [`${'<a>'.repeat(60)}${'</a>'.repeat(60)}`, /nested more than 30 deep/],
  ])('%s is refused', (text, says) => {
    expect(() => readCdl(bytes(text))).toThrow(says)
  })
  it('one that is too large is not parsed', () => {
    expect(() => readCdl(new Uint8Array(5 * 1048576))).toThrow(/larger than 4 MiB/)
  })
})
