// Every station, in both themes, held to WCAG 2.2 A and AA and to good practice by axe-core.
import AxeBuilder from '@axe-core/playwright'
import { at, expect, go, newShot, test, type } from './stage'

type Page = Parameters<typeof at>[0]
/** Rules that the colours of a theme decide; all others hold of both alike. */
const OF_COLOUR = ['color-contrast', 'link-in-text-block']
async function findingsOf(page: Page, theme: string): Promise<string[]> {
  const axe = new AxeBuilder({ page })
  const { violations } = await (theme === 'paper' ? axe : axe.withRules(OF_COLOUR)).analyze()
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(({ target, failureSummary }) => `${id}: ${target.join(' ')}: ${failureSummary?.split('\n')[1]?.trim()}`),
  )
}

// Each by itself: together they are the longest test there is
for (const theme of ['paper', 'dim']) {
  test(`no finding of axe-core at any station, ${theme}`, async ({ page, stage }) => {
    test.setTimeout(300000)
    const findings = (of: Page): Promise<string[]> => findingsOf(of, theme)
    await page.goto(stage.address)
    await expect(at(page, 'shots')).toBeVisible()
    const first = await findings(page)
    await newShot(page, stage)
    await go(page, 'passes')
    await type(at(page, 'samples'), '2')
    await at(page, 'render').click()
    await expect(at(page, 'sheet-beauty')).toBeVisible({ timeout: 60000 })
    const found: Record<string, string[]> = { shots: first }
    if (theme === 'dim') await page.keyboard.press('l')
    for (const station of ['plate', 'passes', 'build', 'finish', 'send']) {
      await go(page, station)
      if (station === 'build' || station === 'finish') {
        await at(page, 'add-treatment').first().click()
        await at(page, 'add-exposure').click()
      }
      // Nothing in motion: what fades has the colours of neither end
      await page.waitForTimeout(500)
      found[`${station} ${theme}`] = await findings(page)
      if (station === 'build') {
        await page.keyboard.press('d')
        await page.waitForTimeout(300)
        found[`desk ${theme}`] = await findings(page)
        await page.keyboard.press('d')
      }
    }
    await go(page, 'scene')
    for (const part of ['camera', 'things', 'light']) {
      await at(page, `part-${part}`).click()
      if (part === 'things') await at(page, 'object-low block').click()
      if (part === 'light') await at(page, 'add-sun').click()
      await page.waitForTimeout(500)
      found[`scene ${part} ${theme}`] = await findings(page)
    }
    await page.keyboard.press('t')
    await page.waitForTimeout(300)
    found[`curves ${theme}`] = await findings(page)
    await page.keyboard.press('t')
    expect(Object.fromEntries(Object.entries(found).filter(([, list]) => list.length))).toEqual({})
  })
}
