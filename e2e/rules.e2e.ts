import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { note } from '../core/test/build';
import { choose, holdKey, typeInto } from './hands';
import { lastStep, notesNow, openNotes } from './shaping';
import { exportByKey, midiFile, openDemo } from './support';

const strip = (page: Page) => page.getByRole('region', { name: 'Rules' });
const apply = (page: Page) => strip(page).getByRole('button', { name: /^Apply to/ });

/** Two bars of eighths on C4, each softer than the one before. */
const EIGHTHS = Array.from({ length: 16 }, (_, i) => note(i, i * 480, { velocity: 100 - i * 5 }));
const velocities = async (page: Page) => (await notesNow(page)).map((n) => n.velocity);

async function openRules(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Rules', exact: true }).click();
  await expect(strip(page)).toBeVisible();
}

test('a rule shows what it would do, is one step, the same on the command line, built of chips, kept and deleted', async ({
  page,
}) => {
  await test.step('a rule counts and shows what it would do, does it as one step, and undo takes it back', async () => {
    await openNotes(page, 'eighths.mid', EIGHTHS);
    const before = await velocities(page);
    await openRules(page);
    await expect(strip(page)).toContainText('Notes on the beat: raise the velocity by 12.');
    await expect(strip(page)).toContainText('8 of 16 notes.');
    await typeInto(page, strip(page).getByLabel('Action 1, by'), '20');
    await expect(strip(page)).toContainText('raise the velocity by 20.');
    await holdKey(page, 'ArrowUp', 6);
    await expect(strip(page)).toContainText('raise the velocity by 26.');
    await holdKey(page, 'ArrowDown', 6);
    await expect(strip(page)).toContainText('raise the velocity by 20.');
    // What is only looked at is not in the file.
    expect(await velocities(page)).toEqual(before);
    await apply(page).click();
    await expect.poll(() => lastStep(page)).toBe('Lean on the beat');
    const now = await velocities(page);
    expect(now).toEqual(before.map((v, i) => (i % 2 === 0 ? Math.min(127, v + 20) : v)));
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect(await velocities(page)).toEqual(before);
    await page.getByRole('button', { name: 'Rules', exact: true }).click();
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('rules write the same file on the command line, byte for byte', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'rules-'));
    const [take, out] = [join(folder, 'take.mid'), join(folder, 'out.mid')];
    writeFileSync(take, midiFile('Eighths', EIGHTHS).buffer);
    const flags = ['--rule', 'Lean on the beat', '--rule', 'Many hands', '--rule', 'Every other one out'];
    const told = spawnSync(process.execPath, ['tools/timing.mjs', 'correct', take, '--out', out, ...flags]);
    expect(told.status).toBe(0);
    await openNotes(page, 'Eighths', EIGHTHS);
    await openRules(page);
    for (const name of flags.filter((f) => f !== '--rule')) {
      await choose(page, 'Rule', name);
      await apply(page).click();
      await expect.poll(() => lastStep(page)).toBe(name);
    }
    expect((await exportByKey(page)).equals(readFileSync(out))).toBe(true);
    await page.getByRole('button', { name: 'Rules', exact: true }).click();
    await expect(strip(page)).toHaveCount(0);
  });

  await test.step('a rule is built of chips, kept, found again after a reload, and deleted', async () => {
    await openNotes(page, 'eighths.mid', EIGHTHS);
    await openRules(page);
    await choose(page, 'Rule', 'Ghosts out');
    const highest = strip(page).getByLabel('Condition 1, highest');
    for (const wrong of ['999', 'e']) {
      await typeInto(page, highest, wrong);
      await page.keyboard.press('Enter');
      await expect(page.getByText('Type a number from 1 to 127.')).toBeVisible();
      await expect(highest).toHaveValue('127');
    }
    await typeInto(page, highest, '60');
    await expect(strip(page)).toContainText('8 of 16 notes.');
    await strip(page).getByRole('button', { name: 'Add a condition' }).click();
    await choose(page, 'Condition 2', 'on the beat');
    await strip(page).getByRole('button', { name: 'Condition 2, turned around' }).click();
    await choose(page, 'How many of them', 'every 2nd of them');
    await expect(strip(page)).toContainText(
      'Notes with a velocity of 1 to 60 and not on the beat, every 2nd of them: erase them.',
    );
    await expect(strip(page)).toContainText('2 of 16 notes.');
    await typeInto(page, strip(page).getByLabel('Name of the rule'), 'Thin the tail');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('combobox', { name: 'Rule', exact: true })).toContainText('Thin the tail');
    await page.reload();
    await openRules(page);
    await choose(page, 'Rule', 'Thin the tail');
    await apply(page).click();
    // The soft off-beats are the ninth, eleventh, thirteenth … eighth from one; every second of those is gone.
    const left = (await notesNow(page)).map((n) => n.start / 480);
    expect(Array.from({ length: 16 }, (_, i) => i).filter((i) => !left.includes(i))).toEqual([11, 15]);
    await strip(page).getByRole('button', { name: 'Delete' }).click();
    await expect(strip(page)).toContainText('“Thin the tail” was deleted.');
    await strip(page).getByRole('button', { name: 'Undo' }).click();
    await choose(page, 'Rule', 'Thin the tail');
    // Another rule takes its name only where that is wanted.
    await choose(page, 'Rule', 'Lean on the beat');
    const saveAs = async (name: string) => {
      await typeInto(page, strip(page).getByLabel('Name of the rule'), name);
      await page.keyboard.press('Enter');
    };
    await saveAs('Thin the tail');
    await expect(strip(page)).toContainText('“Thin the tail” already exists. Choose another name, or replace it.');
    await choose(page, 'Rule', 'Thin the tail');
    await expect(strip(page)).toContainText('every 2nd of them: erase them.');
    await choose(page, 'Rule', 'Lean on the beat');
    await saveAs('Thin the tail');
    await strip(page).getByRole('button', { name: 'replace it' }).click();
    await expect(page.getByRole('combobox', { name: 'Rule', exact: true })).toContainText('Thin the tail');
    await expect(strip(page)).toContainText('Notes on the beat: raise the velocity by 12.');
  });
});

test('a tab that only reads the song is told so, and changes nothing; an own rule gets another name', async ({
  page,
}) => {
  await openNotes(page, 'eighths.mid', EIGHTHS);
  const before = await velocities(page);
  const reader = await page.context().newPage();
  await reader.goto(page.url());
  await openRules(reader);
  await expect(strip(reader)).toContainText('8 of 16 notes.');
  await apply(reader).click();
  await expect(reader.getByText(/This song is being edited in another tab/).first()).toBeVisible();
  await expect(reader.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
  expect(await velocities(page)).toEqual(before);
  // A rule belongs to no song: what the reader saves is there for the writer.
  await typeInto(reader, strip(reader).getByLabel('Name of the rule'), 'Firm beats');
  await reader.keyboard.press('Enter');
  await typeInto(reader, strip(reader).getByLabel('Name of the rule'), 'Firmer beats');
  await strip(reader).getByRole('button', { name: 'Rename' }).click();
  await expect(reader.getByRole('combobox', { name: 'Rule', exact: true })).toContainText('Firmer beats');
  await openRules(page);
  await page.getByRole('combobox', { name: 'Rule', exact: true }).click();
  await expect(page.getByRole('option', { name: 'Firmer beats' })).toBeVisible();
  await expect(page.getByRole('option', { name: 'Firm beats' })).toHaveCount(0);
});

test('a rule that selects hands its notes on; what cannot be is said, and nothing changes', async ({ page }) => {
  await openDemo(page);
  await page.keyboard.press('Shift+u');
  await choose(page, 'Rule', 'Take the loop');
  await expect(strip(page)).toContainText('There is no loop yet.');
  await expect(apply(page)).toBeDisabled();
  await choose(page, 'Rule', 'Take the beats');
  await apply(page).click();
  await expect(page.getByText(/^120 notes selected/)).toBeVisible();
  await choose(page, 'Where', /the selected notes \(120\)/);
  await choose(page, 'Rule', 'Lean on the beat');
  await strip(page).getByRole('button', { name: 'Add a condition' }).click();
  await choose(page, 'Condition 2', 'off the beat');
  await expect(strip(page)).toContainText('No note can pass both conditions.');
  await expect(apply(page)).toBeDisabled();
  await strip(page).getByRole('button', { name: 'and', exact: true }).click();
  await expect(strip(page)).toContainText('120 of 120 notes.');
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
});
