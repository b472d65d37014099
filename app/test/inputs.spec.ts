import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { MidiBytes } from '@early-sparrow/core/record';
import { Panels } from '../src/desk/kit/panels';
import { Calibrator } from '../src/desk/recording/calibrator';
import { Recorder } from '../src/desk/recording/recorder';
import { RecordingStrip } from '../src/desk/recording/recording-strip';
import { Inputs } from '../src/input/inputs';
import { Player } from '../src/sound/player';

describe('what is played in', () => {
  let inputs: Inputs;
  let heard: MidiBytes[];
  let calibrator: { readonly cancel: jest.Mock };
  const send = (...messages: MidiBytes[]) => messages.forEach((bytes) => inputs.screen.press(bytes, 1));

  beforeEach(() => {
    localStorage.clear();
    heard = [];
    const none = signal(null);
    const idle = { taps: none, found: none, soFar: none, cancel: jest.fn() };
    calibrator = idle;
    const off = signal(false);
    const recorder = { into: signal('new'), punch: off, correct: off, recording: off, outside: signal([]) };
    TestBed.configureTestingModule({
      providers: [
        { provide: Calibrator, useValue: idle },
        { provide: Recorder, useValue: recorder },
        { provide: Player, useValue: {} },
        { provide: Panels, useValue: {} },
      ],
    });
    inputs = TestBed.inject(Inputs);
    inputs.choose('screen');
    inputs.listen((bytes) => heard.push(bytes));
    inputs.open.set(true);
    TestBed.tick();
  });

  it('is let go where nobody listens to it any more: keys, pedals and the wheel', () => {
    const down: MidiBytes[] = [
      [0x92, 60, 80],
      [0x92, 64, 80],
      [0xb2, 64, 127],
      [0xe2, 0, 96],
    ];
    // source: MIDI 1.0 Detailed Specification: note-off 8n, controller 64 the damper, pitch bend centre 00 40 (hex)
    const up: MidiBytes[] = [
      [0x82, 60, 64],
      [0xb2, 64, 0],
      [0xe2, 0, 64],
    ];
    const ends = [
      () => inputs.open.set(false),
      () => inputs.choose('keys'),
      () => inputs.setChannel(5),
      () => dispatchEvent(new Event('pagehide')),
    ];
    for (const end of ends) {
      inputs.setChannel(null);
      inputs.choose('screen');
      inputs.open.set(true);
      TestBed.tick();
      send(...down, [0x92, 64, 0]);
      heard = [];
      end();
      TestBed.tick();
      expect(heard).toEqual(up);
      // Once.
      inputs.open.set(false);
      TestBed.tick();
      expect(heard).toEqual(up);
    }
  });

  describe('on the keys of the screen', () => {
    const strip = () => {
      const made = TestBed.createComponent(RecordingStrip);
      made.detectChanges();
      const element = made.nativeElement as HTMLElement;
      const key = element.querySelector('[aria-label="C4"]')!;
      const enter = (type: string, repeat = false) =>
        key.dispatchEvent(new KeyboardEvent(type, { key: 'Enter', repeat }));
      return { made, element, key, enter };
    };

    it('a key that is held is one note, and moving the pointer over others strikes and lifts none', () => {
      const { element, enter } = strip();
      enter('keydown');
      for (let i = 0; i < 5; i++) enter('keydown', true);
      element.querySelector('[aria-label="D4"]')!.dispatchEvent(new MouseEvent('pointerleave'));
      expect(heard).toEqual([[0x90, 60, 96]]);
      enter('keyup');
      expect(heard.slice(1)).toEqual([[0x80, 60, 64]]);
    });

    it('what is down is let go where the focus leaves it, and with the strip, as are the clicks', () => {
      const { made, element, key, enter } = strip();
      enter('keydown');
      key.dispatchEvent(new FocusEvent('blur'));
      expect(heard.splice(0).at(-1)).toEqual([0x80, 60, 64]);
      enter('keydown');
      element.querySelector<HTMLButtonElement>('.pedal')!.click();
      heard.splice(0);
      made.destroy();
      expect(heard).toEqual([
        [0x80, 60, 64],
        [0xb0, 64, 0],
      ]);
      expect(calibrator.cancel).toHaveBeenCalled();
    });
  });
});
