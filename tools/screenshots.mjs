// Takes the pictures of docs/screenshots from a running Northmist with its demo: npm run screenshots [-- name …].
// NORTHMIST_ADDRESS says where it runs.
import { chromium } from 'playwright-core'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './bundle.mjs'

const address = process.env.NORTHMIST_ADDRESS ?? 'http://127.0.0.1:4300'
const wanted = process.argv.slice(2)
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--headless=new', '--no-sandbox', '--disable-gpu'],
})
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
page.on('pageerror', error => {
  console.error(error.message)
  process.exitCode = 1
})
const at = name => page.locator(`[data-test="${name}"]`)
const settled = async () => {
  await page.getByText('Building the picture').waitFor({ state: 'hidden', timeout: 60000 })
  await page.waitForTimeout(600)
}
async function open(shot, station) {
  await page.goto(address)
  await at(`shot-${shot}`).locator('a').first().click()
  await at('ready').waitFor({ state: 'attached', timeout: 60000 })
  await at(`station-${station}`).click()
  await page.waitForTimeout(1500)
  await settled()
}
/** Makes a copy of a shot in place of the one before, which something was done to. */
async function copied(shot) {
  const shots = await (await fetch(`${address}/api/shots`)).json()
  for (const { id, name } of shots)
    if (name === `${shot} copy`) await fetch(`${address}/api/shots/${id}`, { method: 'DELETE' })
  await page.goto(address)
  await at(`shot-${shot}`).waitFor()
  await at(`shot-${shot}`).locator('[data-test=copy]').click()
  await at(`shot-${shot} copy`).waitFor()
}
/** Waits for the scene's picture to be fine enough to show. */
async function refined(samples) {
  await page.waitForFunction(
    least => Number(/(\d+) samples/.exec(document.body.innerText)?.[1] ?? 0) >= least,
    samples,
    { timeout: 300000 },
  )
}
async function value(name, text) {
  await at(`value-${name}`).first().click()
  await page.keyboard.press('Control+a')
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
}
async function line(from, to) {
  const box = await at('picture').boundingBox()
  const point = ([x, y]) => [box.x + (x / 1200) * box.width, box.y + (y / 800) * box.height]
  await page.mouse.move(...point(from))
  await page.mouse.down()
  await page.mouse.move(...point([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2]))
  await page.mouse.move(...point(to))
  await page.mouse.up()
}

/** What shows nothing on a still, without a file or without a click (tools/entries.mjs). */
const UNSEEN = [
  'lut',
  'average',
  'premultiply',
  'key',
  'uv',
  'mist_glow',
  'crease_tint',
  'light_wrap',
  'motion_blur',
  'contact',
  'shaped',
  'blur_map',
  'over_frames',
  'grain_back',
]
/** The small pictures of a sheet as they are, for the handbook; those on which something is written are left out. */
async function entries(what, mark) {
  // Each is made by the engine, one after another
  await page.waitForTimeout(16000)
  const made = await page.evaluate(
    mark =>
      [...document.querySelectorAll(`[data-test^="${mark}-"] canvas`)].map(canvas => {
        const { width, height } = canvas
        const { data } = canvas.getContext('2d').getImageData(0, 0, width, height)
        const isWhole = data.every((value, i) => i % 4 < 3 || value === 255)
        const id = canvas.parentElement.dataset.test.slice(mark.length + 1)
        return { id, url: isWhole ? canvas.toDataURL('image/jpeg', 0.86) : undefined }
      }),
    mark,
  )
  mkdirSync(join(root, 'docs/entries'), { recursive: true })
  for (const { id, url } of made)
    if (url && !UNSEEN.includes(id))
      writeFileSync(join(root, 'docs/entries', `${what}-${id}.jpg`), Buffer.from(url.split(',')[1], 'base64'))
}

const takes = {
  shots: async () => {
    await page.goto(address)
    await at('shot-Bell house').waitFor()
    await page.waitForTimeout(1500)
  },
  plate: () => open('Survey balloon', 'plate'),
  finish: () => open('Bell house', 'finish'),
  build: async () => {
    await open('Bell house', 'build')
    await at('layer-Two on the quay').locator('.title').click()
    await settled()
  },
  words: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'build')
    await at('add-kind').click()
    await at('add-accent').click()
    await page.waitForTimeout(500)
    for (const [name, text] of [
      ['x', '-1.8'],
      ['y', '0.3'],
      ['z', '-5.6'],
      ['stops', '2.4'],
      ['halo', '0.02'],
    ])
      await value(name, text)
    await at('add-kind').click()
    await at('add-words').click()
    await at('words-text').fill('HALLIN NESS')
    await at('font').selectOption('Oswald')
    await at('value-put').selectOption('upright')
    await at('value-runs').selectOption('along an arc')
    await page.waitForTimeout(500)
    for (const [name, text] of [
      ['x', '0.3'],
      ['y', '2.6'],
      ['z', '-11'],
      ['size', '0.8'],
      ['turn', '8'],
      ['bend', '40'],
    ])
      await value(name, text)
    await page.waitForTimeout(3000)
    await settled()
  },
  ledger: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'build')
    await at('ledger').click()
    await at('version-name').locator('input').fill('clear evening')
    await at('version-keep').click()
    await at('version-clear evening').waitFor()
    await at('ledger-close').click()
    await at('add-kind').click()
    await at('add-fogbank').click()
    await settled()
    await at('ledger').click()
    await at('version-clear evening').locator('[data-test=version-open]').click()
    await at('compare-line').click()
    await page.waitForTimeout(3000)
    await settled()
  },
  night: async () => {
    await open('Night haar', 'build')
    await at('layer-The tide in the harbour').locator('.title').click()
    await settled()
  },
  fit: async () => {
    await takes.build()
    await at('fit-toggle').click()
    await at('fit-blacks').waitFor({ timeout: 60000 })
    await page.waitForTimeout(2000)
    await settled()
  },
  desk: async () => {
    await takes.build()
    await at('desk-toggle').click()
    await at('desk-order').selectOption('near first')
    await at('desk-find').fill('bell')
    await at('desk-bell').click()
    await at('desk-find').fill('')
    await page.mouse.move(600, 300)
    await settled()
  },
  drawn: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'finish')
    await at('add-treatment').click()
    await at('add-recolour').click()
    // The sheet is still fading
    await page.waitForTimeout(800)
    await at('treatment-recolour').locator('[data-test="matte-chip"]').click()
    await at('term-add').click()
    await at('term-add-shape').click()
    const box = await at('drawn').boundingBox()
    const point = ([x, y]) => [box.x + (x / 1200) * box.width, box.y + (y / 800) * box.height]
    const corners = [
      [330, 530],
      [590, 500],
      [1040, 620],
      [900, 760],
      [420, 740],
    ]
    for (const [x, y] of corners) {
      await page.mouse.move(...point([x, y]))
      await page.mouse.down()
      await page.mouse.move(...point([x + (y < 700 ? 45 : -45), y + (x > 700 ? 30 : -10)]), { steps: 3 })
      await page.mouse.up()
    }
    await page.mouse.click(...point(corners[0]))
    await at('shape-point').nth(2).click()
    const grip = await at('soft-outer').boundingBox()
    await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2)
    await page.mouse.down()
    await page.mouse.move(grip.x + 34, grip.y - 8, { steps: 4 })
    await page.mouse.up()
    await settled()
  },
  // On a copy, so that the demo stays as it is
  where: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'finish')
    await at('strip-light').click()
    await at('add-treatment').click()
    await at('add-tint').click()
    await at('matte-chip').last().click()
    await at('term-add').click()
    await at('term-add-colour').click()
    const box = await at('picture').boundingBox()
    await page.mouse.click(box.x + box.width * 0.24, box.y + box.height * 0.3)
    await page.waitForTimeout(1200)
    await at('term-add').click()
    await at('term-add-gradient').click()
    await page.locator('[data-test=term-gradient] [data-test=term-join]').selectOption('only')
    await at('refine-add-soften').click()
    await page.locator('[data-test=refine-soften]').scrollIntoViewIfNeeded()
    await page.waitForTimeout(2500)
  },
  choose: async () => {
    await open('Bell house', 'finish')
    await at('add-treatment').click()
    await page.mouse.move(5, 400)
    await page.waitForTimeout(4000)
    await entries('treatment', 'add')
  },
  // On a copy, so that the demo stays as it is
  mattes: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'finish')
    await at('matte-chip').first().click()
    await at('term-add').click()
    await entries('matte', 'term-add')
  },
  passes: async () => {
    await open('Bell house', 'passes')
    // Each sheet is made one after another
    await page.waitForTimeout(15000)
    await at('sheet-albedo')
      .click()
      .catch(() => {})
    await settled()
  },
  send: () => open('Bell house', 'send'),
  scene: async () => {
    await open('Bell house', 'scene')
    await at('object-bell').click()
    await refined(24)
  },
  // On a copy, so that the demo stays as it is
  match: async () => {
    await copied('Bell house')
    await open('Bell house copy', 'scene')
    await at('part-camera').click()
    await at('match-x').click()
    for (const [from, to] of [
      [
        [53, 651],
        [198, 692],
      ],
      [
        [53, 629],
        [197, 667],
      ],
      [
        [52, 600],
        [197, 635],
      ],
      [
        [51, 580],
        [197, 611],
      ],
    ])
      await line(from, to)
    await at('match-z').click()
    for (const [from, to] of [
      [
        [206, 690],
        [364, 648],
      ],
      [
        [205, 667],
        [364, 627],
      ],
      [
        [205, 635],
        [364, 599],
      ],
      [
        [205, 611],
        [364, 577],
      ],
    ])
      await line(from, to)
    await at('match-z').click()
    await at('match-snap').click()
    await page.mouse.move(1100, 30)
    await refined(24)
    await at('match-result').scrollIntoViewIfNeeded()
  },
  track: async () => {
    await open('Survey balloon', 'scene')
    await at('part-camera').click()
    await at('track-facts').scrollIntoViewIfNeeded()
    await refined(20)
  },
  curves: async () => {
    await open('Survey balloon', 'scene')
    await at('part-camera').click()
    await page.keyboard.press('t')
    await refined(12)
  },
}
for (const [name, take] of Object.entries(takes)) {
  if (wanted.length && !wanted.includes(name)) continue
  await take()
  await page.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) })
  await page.evaluate(() => localStorage.removeItem('northmist/strip'))
  console.log(name)
}
await page.goto(address)
await page.evaluate(() => localStorage.removeItem('northmist/strip'))
const made = at('shot-Bell house copy').locator('[data-test=delete]')
if (await made.count()) await made.first().click()
await page.waitForTimeout(500)
await browser.close()
