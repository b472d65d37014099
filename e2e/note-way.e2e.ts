import { expect, test } from '@playwright/test';
import { tabTo } from './hands';
import { listened, openDemo } from './support';

/** `11.2 ms early` is −11.2; `on the line` is 0. */
function offset(words: string): number {
  const found = /([\d.]+)\s*ms (early|late)/.exec(words);
  return found ? Number(found[1]) * (found[2] === 'early' ? -1 : 1) : 0;
}

test('a note tells its way from where it was played, and the steps add up', async ({ page }) => {
  await openDemo(page);
  await listened(page);
  await page.keyboard.press('y');
  await page.getByRole('button', { name: /^Tight but breathing/ }).click();
  await tabTo(page, page.getByRole('application'));
  const way = page.getByTitle('What each stage did to this note, in its order');
  for (let i = 0; i < 6; i++) {
    await page.keyboard.press('ArrowRight');
    await expect(way).toContainText(/^\s*played .* → lag .* → line \d+\.\d\.\d.* → now /);
    const steps = (await way.innerText()).split('→');
    const moved = steps.slice(1, -1).map((step) => {
      const found = /([+−±])([\d.]+)\s*ms$/.exec(step.trim());
      return found ? Number(found[2]) * (found[1] === '−' ? -1 : 1) : 0;
    });
    const sum = offset(steps[0]) + moved.reduce((a, b) => a + b, 0);
    // Each number is rounded, those above ten to whole ms.
    expect(Math.abs(sum - offset(steps.at(-1) ?? ''))).toBeLessThanOrEqual(1.2);
  }
  await expect(page.getByText('Under the treatment. What you move or resize by hand is pinned there.')).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByText('Pinned by hand: no stage moves it.')).toBeVisible();
  await expect(way).toContainText('pinned');
  // As played nothing has moved it.
  await page.getByRole('radio', { name: 'As played' }).click();
  await expect(way).toHaveCount(0);
});
