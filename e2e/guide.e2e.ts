import { expect, test } from '@playwright/test';
import { choose } from './hands';
import { listened, openDemo } from './support';

test('an amount says what it means; the guide’s walks go step by step and show their controls', async ({ page }) => {
  await openDemo(page);
  await test.step('an amount says what it means, with a number', async () => {
    await expect(
      page.getByTitle('How far starts go to their lines: at 80 %, a note 20 ms late ends 4 ms late.'),
    ).toBeVisible();
    await expect(page.getByRole('slider', { name: 'Strength', exact: true })).toHaveAttribute(
      'aria-description',
      /at 80 %/,
    );
  });

  await test.step('the guide opens beside the desk: its walks go step by step, and each step shows its controls', async () => {
    await listened(page);
    await page.keyboard.press('F1');
    const guide = page.getByRole('region', { name: 'Guide' });
    await expect(guide).toBeVisible();
    await choose(page, 'Walk', 'Marimba: rushing');
    await expect(guide).toContainText(
      'The offset lane shows the marks above the line: 11 ms early throughout. Press Remove.',
    );
    await expect(guide).toContainText(/1 of \d/);
    await guide.getByRole('button', { name: 'Show Remove' }).click();
    // The frame lies around the button that the step means.
    const frame = await page.locator('.spot').boundingBox();
    const button = await page.getByRole('button', { name: 'Remove', exact: true }).first().boundingBox();
    expect(Math.abs(frame!.x + 7 - button!.x)).toBeLessThan(12);
    expect(Math.abs(frame!.y + 7 - button!.y)).toBeLessThan(12);
    await guide.getByRole('button', { name: 'Next' }).click();
    await expect(page.locator('.spot')).toHaveCount(0);
    await expect(guide).toContainText('in What fits. Every note is on its line.');
    await guide.getByRole('button', { name: 'Next' }).click();
    await guide.getByRole('button', { name: 'Show Strength' }).click();
    await expect(page.locator('.spot')).toHaveCount(1);
    // What is nowhere on the screen is said.
    await choose(page, 'Walk', 'Played without a click');
    await guide
      .getByRole('button', { name: /^Show / })
      .first()
      .click();
    await page.keyboard.press('Escape');
    await expect(guide).toHaveCount(0);
    // It opens only where it is asked for.
    await page.reload();
    await expect(page.getByRole('heading', { name: 'Night Ferry' })).toBeVisible();
    await expect(guide).toHaveCount(0);
  });
});
