// npm test: sets up everything the tests need, runs them all, ends with “N passed, N failed”.
// node tools/test.mjs unit | browser runs only those.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { application, bundles, debianPackages, kernels, nodePackages, root, step } from './setup.mjs'

const only = process.argv[2]
const folder = mkdtempSync(join(tmpdir(), 'northmist-test-'))
let passed = 0
let failed = 0

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
/** A check without tests of its own counts as one. */
async function check(label, command, args) {
  console.log(`\n== ${label}`)
  if ((await shown(command, args)) === 0) passed++
  else {
    failed++
    console.log(`FAILED: ${label}`)
  }
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
  if (only !== 'unit') await step('application', application)
  if (!only) {
    await check('lint', bin('eslint'), ['.', '--max-warnings', '0'])
    await check('form', bin('prettier'), ['--check', '.'])
    await check('types: core, command line, tests', bin('tsc'), ['-p', 'tsconfig.json'])
    await check('types: server', bin('tsc'), ['-p', '.nuxt/tsconfig.server.json', '--noEmit'])
    await check('types: application', bin('vue-tsc'), ['-p', '.nuxt/tsconfig.app.json', '--noEmit'])
  }
  if (only !== 'browser') {
    console.log('\n== unit and reference tests')
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
      failed += result.numFailedTests
      if (code !== 0 && result.numFailedTests === 0) failed++
    } catch {
      failed++
    }
  }
  if (only !== 'unit') {
    console.log('\n== in the browser')
    const report = join(folder, 'browser.json')
    const code = await shown(bin('playwright'), ['test', '--config', 'tests/e2e/playwright.config.ts'], {
      PLAYWRIGHT_JSON_OUTPUT_NAME: report,
      NORTHMIST_TEST_FOLDER: folder,
    })
    try {
      const { stats } = JSON.parse(readFileSync(report, 'utf8'))
      passed += stats.expected + stats.flaky
      failed += stats.unexpected
      if (code !== 0 && stats.unexpected === 0) failed++
    } catch {
      failed++
    }
  }
} catch (error) {
  console.error(`\n${error.message}`)
  failed++
} finally {
  rmSync(folder, { recursive: true, force: true })
}
console.log(`\n${passed} passed, ${failed} failed`)
process.exit(failed ? 1 : 0)
