import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { BankSound } from '@early-sparrow/core/bank';
import { Bank } from '../src/sound/bank';
import type { SoundDevice } from '../src/sound/sound-device';
import { Sounds } from '../src/sound/sounds';

describe('the sounds of a bank', () => {
  it('are brought once, and anew with another bank, though it has the name of the one before', async () => {
    const list = (): readonly BankSound[] => [{ program: 0, drums: false, name: 'Piano' }];
    const bank = {
      sounds: signal(list()),
      name: signal('mine.sf2'),
      sound: () => Promise.resolve(new ArrayBuffer(1)),
      load: () => Promise.resolve(),
    };
    TestBed.configureTestingModule({ providers: [{ provide: Bank, useValue: bank }] });
    const said: string[] = [];
    const sounds = TestBed.inject(Sounds);
    const settled = async () => {
      TestBed.tick();
      await Promise.resolve();
      await Promise.resolve();
      return said.splice(0);
    };
    sounds.use({ say: ({ say }: { say: string }) => said.push(say) } as unknown as SoundDevice);
    sounds.need([{ program: 0, drums: false }]);
    sounds.want();
    expect(await settled()).toEqual(['sound']);
    sounds.need([{ program: 0, drums: false }]);
    expect(await settled()).toEqual([]);
    bank.sounds.set(list());
    expect(await settled()).toEqual(['no-sounds', 'sound']);
  });
});
