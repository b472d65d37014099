import { readFileSync } from 'node:fs';
import { demoSong } from '../../tools/demo/build';

describe('the demo song', () => {
  it('is what its script makes, to the byte, and so is the truth about it', () => {
    const { midi, truth } = demoSong();
    expect(Buffer.from(midi).equals(readFileSync('app/public/demo/night-ferry.mid'))).toBe(true);
    expect(JSON.stringify(truth) + '\n').toBe(readFileSync('app/public/demo/night-ferry.truth.json', 'utf8'));
  });
});
