// Fonts that words are set in: those that ship, and those that are brought.
import atkinson from '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url'
import atkinsonMore from '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-ext-wght-normal.woff2?url'
import mono from '@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2?url'
import monoMore from '@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-ext-wght-normal.woff2?url'
import caveat from '@fontsource-variable/caveat/files/caveat-latin-wght-normal.woff2?url'
import caveatMore from '@fontsource-variable/caveat/files/caveat-latin-ext-wght-normal.woff2?url'
import caveatCyrillic from '@fontsource-variable/caveat/files/caveat-cyrillic-wght-normal.woff2?url'
import oswald from '@fontsource-variable/oswald/files/oswald-latin-wght-normal.woff2?url'
import oswaldMore from '@fontsource-variable/oswald/files/oswald-latin-ext-wght-normal.woff2?url'
import oswaldCyrillic from '@fontsource-variable/oswald/files/oswald-cyrillic-wght-normal.woff2?url'
import serif from '@fontsource-variable/source-serif-4/files/source-serif-4-latin-wght-normal.woff2?url'
import serifMore from '@fontsource-variable/source-serif-4/files/source-serif-4-latin-ext-wght-normal.woff2?url'
import serifGreek from '@fontsource-variable/source-serif-4/files/source-serif-4-greek-wght-normal.woff2?url'
import serifCyrillic from '@fontsource-variable/source-serif-4/files/source-serif-4-cyrillic-wght-normal.woff2?url'
import italic from '@fontsource-variable/source-serif-4/files/source-serif-4-latin-wght-italic.woff2?url'
import italicMore from '@fontsource-variable/source-serif-4/files/source-serif-4-latin-ext-wght-italic.woff2?url'
import type { FontReference } from '../../core/shot/document'
import { upload } from './api'

export const FONTS = '.ttf,.otf,.ttc,.woff,.woff2'
/** Of each character the first file that has it. */
const SHIPPED = {
  'Source Serif': [serif, serifMore, serifGreek, serifCyrillic],
  'Source Serif Italic': [italic, italicMore],
  'Atkinson Hyperlegible': [atkinson, atkinsonMore],
  'Atkinson Hyperlegible Mono': [mono, monoMore],
  Oswald: [oswald, oswaldMore, oswaldCyrillic],
  Caveat: [caveat, caveatMore, caveatCyrillic],
} as const
type ShippedFont = keyof typeof SHIPPED
export const SHIPPED_FONTS = Object.keys(SHIPPED) as ShippedFont[]
export const FIRST_FONT: ShippedFont = 'Source Serif'

/** A font that ships, in the store as any other: a shot holds all that it needs. */
export async function shippedFont(name: ShippedFont): Promise<FontReference> {
  const files = await Promise.all(
    SHIPPED[name].map(async (url, i) => {
      const answer = await fetch(url)
      if (!answer.ok) throw new Error(`The font ${name} did not come (${answer.status}).`)
      const own = `${name} ${i + 1}.woff2`
      const { blob } = await upload(new File([await answer.blob()], own))
      return { blob, name: own }
    }),
  )
  return { name, files }
}

/** Sends a font. Throws what is wrong with it. */
export async function bringFont(file: File): Promise<FontReference> {
  // The reader is only fetched when there is something to read
  const { MAXIMUM_FONT, readFont } = await import('../../core/formats/font/font')
  if (file.size > MAXIMUM_FONT) throw new Error(`“${file.name}” is larger than ${MAXIMUM_FONT / 1048576} MiB.`)
  const own = await readFont(new Uint8Array(await file.arrayBuffer()))
  const { blob } = await upload(file)
  const name = file.name.slice(0, 300)
  return { name: (own.name || name).slice(0, 300), files: [{ blob, name }] }
}
