/* eslint-disable @typescript-eslint/no-explicit-any -- what a page holds has no type here */
// A shot of the demo in a test's own server, to be changed before it is made.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { demoFile, demoFolder } from '../../host/demofile'
import { expect, type Stage } from './stage'

/** The first shot's document (the bell house), its files sent to the server. */
export async function bellHouse(page: Page, stage: Stage): Promise<Record<string, any>> {
  const [told] = JSON.parse(readFileSync(join(demoFolder(), 'shots.json'), 'utf8')) as {
    document: Record<string, any>
    files: Record<string, string>
  }[]
  const blobs = new Map<string, string>()
  for (const file of Object.values(told!.files)) {
    const answer = await page.request.post(`${stage.address}/api/blobs`, { data: demoFile(file) })
    blobs.set(`@${file}`, ((await answer.json()) as { blob: string }).blob)
  }
  return JSON.parse(JSON.stringify(told!.document), (_, value) => blobs.get(value) ?? value)
}
/** A shot of that document. Returns its id. */
export async function shotOf(page: Page, stage: Stage, name: string, document: object): Promise<string> {
  const made = await page.request.post(`${stage.address}/api/shots`, { data: { name, document } })
  expect(made.ok(), await made.text()).toBe(true)
  return ((await made.json()) as { id: string }).id
}
