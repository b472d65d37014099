import { readFileSync } from 'node:fs';
import { HINTS } from '../src/desk/controls/hints';
import { walksOf } from '../src/desk/help/walks';

describe('the guide', () => {
  it('is made of walks whose steps name their controls', () => {
    const walks = walksOf(
      '# Home\n\nPress _Go_.\n\n## Empty\n\n## One\n\n![p](x.png)\n\n1. Open [it](a.md), press **1/16**.\n2. _Go_ _Go_\n',
    );
    expect(walks.map((w) => w.title)).toEqual(['Home', 'One']);
    expect(walks[0].steps).toEqual([{ html: '<p>Press <em>Go</em>.</p>', controls: ['Go'] }]);
    expect(walks[1].steps.map((s) => s.controls)).toEqual([['1/16'], ['Go']]);
    expect(walks[1].steps[0].html).not.toMatch(/<img|<a\b/);
  });

  it('as it is written gives every walk, none of them without steps', () => {
    const walks = walksOf(readFileSync('docs/guide.md', 'utf8'));
    expect(walks.length).toBeGreaterThan(15);
    const marimba = walks.find((w) => w.title === 'Marimba: rushing');
    expect(marimba?.steps[0].controls).toContain('Remove');
  });

  it('has hints of one sentence with a number', () => {
    for (const hint of Object.values(HINTS)) expect(hint).toMatch(/^[A-ZÀ][^.]*(\.\d[^.]*)*\d[^.]*(\.\d[^.]*)*\.$/);
  });
});
