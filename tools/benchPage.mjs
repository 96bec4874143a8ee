// The real application in a real browser: a clip of 1920x1080 brought in, played at half size, its dropped frames
// counted; frames from the cache onto the screen; a value that is dragged, from the hand to the new pixels.
import { execFileSync } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { postgres } from './database.mjs'
import { application, freePort, server } from './setup.mjs'

export const pageFigures = async wanted => [...(await playing(wanted)), ...(await dragging(wanted))]

/** What is measured in a page of an application of its own. */
async function inBrowser(demo, work) {
  const folder = mkdtempSync(join(tmpdir(), 'northmist-bench-'))
  chmodSync(folder, 0o755)
  const data = join(folder, 'data')
  mkdirSync(data)
  await application()
  const { chromium } = await import('@playwright/test')
  const database = await postgres(data, 0)
  const env = demo ? {} : { NORTHMIST_DEMO: 'no' }
  const app = await server({ url: database.url, port: await freePort(0), data, env, quiet: true })
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--headless=new', '--no-sandbox'],
  })
  try {
    return await work(await browser.newPage({ viewport: { width: 1280, height: 800 } }), app, folder)
  } finally {
    await browser.close()
    await app.stop()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** From a pointer that moves a value of the demo's bell house to its new picture in the canvas. */
async function dragging(wanted) {
  if (!wanted('build.page')) return []
  return inBrowser(true, async (page, app) => {
    await page.goto(app.address)
    await page.locator('img').first().click()
    await page.waitForURL(/\/shot\//)
    await page.locator('[data-test=station-finish]').click()
    await page.waitForTimeout(6000)
    await page.evaluate(() => {
      window.painted = []
      const put = CanvasRenderingContext2D.prototype.putImageData
      CanvasRenderingContext2D.prototype.putImageData = function (...args) {
        put.apply(this, args)
        window.painted.push(performance.now())
      }
      addEventListener('pointermove', event => (window.moved = event.timeStamp), true)
    })
    const box = await page.locator('[data-test=value-stops]').first().boundingBox()
    await page.mouse.move(box.x + 5, box.y + 8)
    await page.mouse.down()
    const times = []
    for (let i = 1; i <= 40; i++) {
      const before = await page.evaluate(() => window.painted.length)
      await page.mouse.move(box.x + 5 + i * 3, box.y + 8)
      await page.waitForFunction(count => window.painted.length > count, before)
      const took = await page.evaluate(count => window.painted[count] - window.moved, before)
      if (i > 8) times.push(took)
      await page.waitForTimeout(30)
    }
    await page.mouse.up()
    const value = times.sort((a, b) => a - b)[Math.floor(times.length / 2)]
    return [
      { name: 'build.page', value, unit: 'ms', against: 'aim of 40 ms (1200x800, in Chromium)', ratio: 40 / value },
    ]
  })
}

async function playing(wanted) {
  if (!wanted('clip.play') && !wanted('clip.frame')) return []
  const out = []
  await inBrowser(false, async (page, app, folder) => {
    const film = join(folder, 'clip.mp4')
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
  })
  return out.filter(figure => wanted(figure.name))
}
