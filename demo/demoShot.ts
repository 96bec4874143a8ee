// A shot of the demo: its document, whose files are named @file, and those files.
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { EnvironmentSettings, PictureReference, ShotDocument } from '../core/shot/document'
import { projectRoot } from '../host/root'

/** Of the stills. */
export const SIZE = { width: 1200, height: 800 }

export interface DemoShot {
  name: string
  document: ShotDocument
  files: Record<string, string>
  thumbnail: string
}
export type MadePasses = Pick<
  NonNullable<ShotDocument['passes']['file']>,
  'objects' | 'standIns' | 'materials' | 'passes' | 'lights' | 'clean'
>
/** What the passes that were rendered for a shot have in them; undefined before there are any. */
export function madePasses(name: string): MadePasses | undefined {
  const file = join(projectRoot(), `demo/assets/${name} passes.json`)
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as MadePasses) : undefined
}

/** A photograph of the demo, as it came. */
export const photographOf = (name: string, size: { width: number; height: number }): PictureReference => ({
  ...{ blob: `@${name}`, name, encoding: 'srgb', alpha: 'none', ...size },
  facts: { format: 'png', bits: 8, float: false, alpha: 'none' },
})
/** A sky of the demo, twice as wide as tall, in light as it is; not seen itself. */
export const skyOf = (name: string, width: number, stops: number): EnvironmentSettings => ({
  ...{ blob: `@${name}`, name, encoding: 'linear', alpha: 'none', width, height: width / 2 },
  facts: { format: 'hdr', bits: 32, float: true, alpha: 'none' },
  ...{ turn: 0, stops, seen: false },
})
