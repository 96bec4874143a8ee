// npm test: sets up everything the tests need, runs them all, ends with “N passed, N failed”.
// node tools/test.mjs checks | unit | browser runs only those.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { application, bundles, debianPackages, kernels, nodePackages, root, step } from './setup.mjs'

const only = process.argv[2]
const begun = Date.now()
const folder = mkdtempSync(join(tmpdir(), 'northmist-test-'))
let passed = 0
/** What failed, a line each: said once more at the end, where what came before may have been cut off. */
const failures = []
const firstLine = text => (text ?? '').split('\n', 1)[0]

const shown = (command, args, env = {}) =>
  new Promise(resolve => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, FORCE_COLOR: '0', ...env },
    })
    child.on('close', resolve)
    child.on('error', () => resolve(1))
  })
/** Where the run is, and when. */
const at = label => console.log(`\n== ${label} (after ${Math.round((Date.now() - begun) / 1000)} s)`)
/** A check without tests of its own counts as one. What it prints is shown when it is done: others run beside it. */
async function check(label, command, args) {
  const lines = []
  const code = await new Promise(resolve => {
    const child = spawn(command, args, { cwd: root, env: { ...process.env, FORCE_COLOR: '0' } })
    for (const stream of [child.stdout, child.stderr]) stream.on('data', data => lines.push(data))
    child.on('close', resolve)
    child.on('error', error => {
      lines.push(error.message)
      resolve(1)
    })
  })
  at(label)
  process.stdout.write(Buffer.concat(lines.map(line => Buffer.from(line))))
  if (code === 0) passed++
  else {
    failures.push(label)
    console.log(`FAILED: ${label}`)
  }
}
/** One after another. */
async function lane(...checks) {
  for (const [label, command, ...args] of checks) await check(label, command, args)
}
const bin = name => join(root, 'node_modules/.bin', name)

try {
  await step('Debian packages for references', () =>
    debianPackages([
      'postgresql',
      'chromium',
      'python3-numpy',
      'python3-openimageio',
      'openimageio-tools',
      'python3-pyopencolorio',
      'ffmpeg',
      'python3-opencv',
      'opencv-doc',
    ]),
  )
  await step('packages', nodePackages)
  await step('kernels', kernels)
  await step('tools', bundles)
  const checks = !only || only === 'checks'
  // Each of them keeps one core busy. Building writes anew what the later ones read
  await Promise.all([
    only !== 'unit' && step('application', application),
    checks &&
      lane(
        ['types: core, command line, tests', bin('tsc'), '-p', 'tsconfig.json'],
        ['form', bin('prettier'), '--check', '.'],
      ),
  ])
  if (checks)
    await Promise.all([
      lane(['lint', bin('eslint'), '.', '--max-warnings', '0']),
      lane(
        ['types: application', bin('vue-tsc'), '-p', '.nuxt/tsconfig.app.json', '--noEmit'],
        ['types: server', bin('tsc'), '-p', '.nuxt/tsconfig.server.json', '--noEmit'],
      ),
    ])
  if (!only || only === 'unit') {
    at('unit and reference tests')
    const report = join(folder, 'vitest.json')
    const code = await shown(bin('vitest'), [
      'run',
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${report}`,
    ])
    try {
      const result = JSON.parse(readFileSync(report, 'utf8'))
      passed += result.numPassedTests
      for (const file of result.testResults) {
        const broken = file.assertionResults.filter(({ status }) => status === 'failed')
        for (const { fullName, failureMessages } of broken)
          failures.push(`${relative(root, file.name)}: ${fullName}: ${firstLine(failureMessages[0])}`)
        if (file.status === 'failed' && broken.length === 0)
          failures.push(`${relative(root, file.name)}: ${firstLine(file.message)}`)
      }
      if (code !== 0 && failures.length === 0) failures.push(`unit and reference tests: ended with ${code}`)
    } catch (error) {
      failures.push(`unit and reference tests: ${error.message}`)
    }
  }
  if (!only || only === 'browser') {
    at('in the browser')
    const report = join(folder, 'browser.json')
    const code = await shown(bin('playwright'), ['test', '--config', 'tests/e2e/playwright.config.ts'], {
      PLAYWRIGHT_JSON_OUTPUT_NAME: report,
      NORTHMIST_TEST_FOLDER: folder,
    })
    try {
      const { stats, suites } = JSON.parse(readFileSync(report, 'utf8'))
      passed += stats.expected + stats.flaky
      const specs = suites.flatMap(function inside({ specs, suites = [] }) {
        return [...specs, ...suites.flatMap(inside)]
      })
      const broken = specs.filter(({ ok }) => !ok)
      for (const { file, title, tests } of broken)
        failures.push(`${file}: ${title}: ${firstLine(tests[0]?.results.at(-1)?.error?.message)}`)
      if (code !== 0 && broken.length === 0) failures.push(`in the browser: ended with ${code}`)
    } catch (error) {
      failures.push(`in the browser: ${error.message}`)
    }
  }
} catch (error) {
  failures.push(error.message)
} finally {
  rmSync(folder, { recursive: true, force: true })
}
const seconds = Math.round((Date.now() - begun) / 1000)
console.log(`\nTook ${Math.floor(seconds / 60)} min ${seconds % 60} s`)
for (const failure of failures) console.log(`FAILED: ${failure}`)
console.log(`${passed} passed, ${failures.length} failed`)
process.exit(failures.length ? 1 : 0)
