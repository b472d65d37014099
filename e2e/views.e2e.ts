import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { boxOf } from './hands';
import { exported, listened, openDemo, played, selectTrack } from './support';

const serious = async (page: Page) =>
  // Of what is in order only a count, which saves most of the time.
  (await new AxeBuilder({ page }).options({ resultTypes: ['violations'] }).analyze()).violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`);

test.describe('axe finds nothing serious', () => {
  const inBoth = async (page: Page) => {
    for (const theme of ['Dusk', 'Dawn']) {
      await page.getByRole('button', { name: theme, exact: true }).click();
      expect(await serious(page), theme).toEqual([]);
    }
  };

  test('on the desk with everything open', async ({ page }) => {
    await openDemo(page);
    await listened(page);
    await page.getByRole('switch', { name: 'Put starts on lines' }).click();
    await page.getByRole('button', { name: '1/16', exact: true }).click();
    await inBoth(page);
    await page.getByRole('button', { name: 'Report' }).click();
    for (const theme of ['Dusk', 'Dawn']) {
      await expect(page.locator('es-timing-report canvas').first()).toBeVisible();
      await page.getByRole('button', { name: theme, exact: true }).click();
      await page.getByRole('button', { name: 'Recipes' }).click();
      expect(await serious(page), theme).toEqual([]);
      await page.keyboard.press('Escape');
      await page.getByRole('button', { name: 'Commands' }).click();
      expect(await serious(page), theme).toEqual([]);
      await page.keyboard.press('Escape');
    }
  });

  test('on the songs, with one and with none, which say how to begin', async ({ page }) => {
    await openDemo(page);
    await page.getByRole('link', { name: 'All songs' }).click();
    await expect(page.getByRole('listitem')).toHaveCount(1);
    await inBoth(page);
    await page.getByRole('button', { name: 'Options for Night Ferry' }).click();
    await page.getByRole('menuitem', { name: 'Delete' }).click();
    await expect(page.getByText('No songs yet.')).toBeVisible();
    await expect(page.getByRole('menu')).toHaveCount(0);
    await expect(page.getByText('Drop the file here, or press')).toBeVisible();
    await inBoth(page);
  });
});

test.describe('in a narrow window', () => {
  test('the song’s name is whole wherever there is room for it; under 1000 px the treatment is a drawer', async ({
    page,
  }) => {
    await openDemo(page);
    await test.step('the song’s name is whole wherever there is room for it', async () => {
      const name = page.getByRole('heading', { name: 'Night Ferry' });
      const whole = (await boxOf(name)).width;
      for (const width of [1181, 1180, 1024, 1001]) {
        await page.setViewportSize({ width, height: 700 });
        await expect.poll(async () => (await boxOf(name)).width, { message: `${width} px` }).toBe(whole);
      }
    });

    await test.step('under 1000 px the treatment is a drawer and the tracks a row', async () => {
      await page.setViewportSize({ width: 980, height: 700 });
      const panel = page.locator('es-treatment-panel');
      await expect(panel).toBeHidden();
      await page.getByRole('button', { name: 'Treatment', exact: true }).click();
      await expect(panel).toBeVisible();
      await page.keyboard.press('Escape');
      await expect(panel).toBeHidden();
      const [first, second] = [
        await page.getByRole('button', { name: /^Marimba/ }).boundingBox(),
        await page.getByRole('button', { name: /^Upright bass/ }).boundingBox(),
      ];
      expect(first?.y).toBe(second?.y);
    });
  });

  test('at 390 px looking, listening and taking a suggestion work', async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 });
    await openDemo(page);
    const canvas = await page.locator('es-timing-view').boundingBox();
    expect(canvas?.width).toBeGreaterThan(380);
    expect(canvas?.height).toBeGreaterThan(320);
    await selectTrack(page, /Upright bass/);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
    await expect(page.getByLabel('Bar, beat, sixteenth')).not.toHaveText('1.1.1');
    await page.getByRole('button', { name: 'Pause' }).click();
    await page.getByRole('button', { name: 'Treatment', exact: true }).click();
    await listened(page);
    await page.getByRole('button', { name: /^Apply 1\/8:/ }).click();
    await page.getByRole('button', { name: 'Treatment', exact: true }).click();
    const notes = await exported(page, 2);
    expect(notes.every((n) => n.start % 480 === 0)).toBe(true);
    expect(notes).toHaveLength(played(2).length);
    expect(await serious(page)).toEqual([]);
  });
});
