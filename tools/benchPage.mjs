// Playback in the real application: a clip of 1920x1080 brought in, played at half size, its dropped frames counted;
// frames from the cache onto the screen.
import { execFileSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { postgres } from './database.mjs'
import { application, freePort, server } from './setup.mjs'

export async function pageFigures(wanted) {
  if (!wanted('clip.play') && !wanted('clip.frame')) return []
  const folder = mkdtempSync(join(tmpdir(), 'northmist-bench-'))
  chmodSync(folder, 0o755)
  const data = join(folder, 'data')
  const film = join(folder, 'clip.mp4')
  const out = []
  mkdirSync(data)
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=size=1920x1080:rate=24:duration=2',
    '-vf',
    'noise=alls=6:allf=t',
    '-c:v',
    'libx264',
    '-preset',
    'fast',
    '-pix_fmt',
    'yuv420p',
    film,
  ])
  await application()
  const { chromium } = await import('@playwright/test')
  const database = await postgres(data, 0)
  const app = await server({
    url: database.url,
    port: await freePort(0),
    data,
    env: { NORTHMIST_DEMO: 'no' },
    quiet: true,
  })
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--headless=new', '--no-sandbox'],
  })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto(app.address)
    await page.locator('[data-test=drop-new] input').setInputFiles([film])
    await page.waitForURL(/\/shot\//)
    await page.locator('[data-test=timeline]').waitFor({ timeout: 120000 })
    await page.locator('[data-test=play]').click()
    // Once round, until every frame is kept; then a fresh start is counted
    await page.waitForFunction(
      () => {
        const rects = [...document.querySelectorAll('[data-test=frames] rect.kept')]
        const bar = document.querySelector('[data-test=frames]')
        return rects.length === 1 && Number(rects[0].getAttribute('width')) > bar.clientWidth * 0.97
      },
      undefined,
      { timeout: 120000 },
    )
    await page.keyboard.press('p')
    await page.waitForTimeout(500)
    await page.locator('[data-test=play]').click()
    await page.waitForTimeout(6000)
    const dropped = Number((await page.locator('[data-test=dropped]').textContent()).split(' ')[0])
    await page.keyboard.press('p')
    out.push({
      name: 'clip.play',
      value: dropped,
      unit: 'dropped of 144',
      against: 'no frame dropped in six seconds at 24 a second',
      ratio: 1 - dropped / 144,
    })
    const took = await page.evaluate(async () => {
      const canvas = document.createElement('canvas')
      const context = canvas.getContext('2d')
      const bitmap = await createImageBitmap(new ImageData(new Uint8ClampedArray(960 * 540 * 4).fill(120), 960, 540))
      const times = []
      canvas.width = 960
      canvas.height = 540
      document.body.append(canvas)
      for (let i = 0; i < 60; i++) {
        const start = performance.now()
        context.drawImage(bitmap, 0, 0)
        context.getImageData(0, 0, 1, 1)
        times.push(performance.now() - start)
        await new Promise(requestAnimationFrame)
      }
      return times.sort((a, b) => a - b)[30]
    })
    out.push({
      name: 'clip.frame',
      value: took,
      unit: 'ms',
      against: 'one refresh at 60 a second',
      ratio: 1000 / 60 / took,
    })
  } finally {
    await browser.close()
    await app.stop()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  return out.filter(figure => wanted(figure.name))
}
