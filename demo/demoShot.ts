// A shot of the demo: its document, whose files are named @file, and those files.
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ShotDocument } from '../core/shot/document'
import { projectRoot } from '../host/root'

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
