import { TestBed } from '@angular/core/testing';
import { note, part, song } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Selecting } from '../src/desk/hand/selecting';
import { Clipboard } from '../src/desk/shape/clipboard';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { open } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

describe('the clipboard', () => {
  it('says that notes were cut only where they were: in a tab that reads they are copied, and it is said why', () => {
    const store = open(song([note(0, 0), note(1, 480), note(2, 960)]));
    const count = () => part(store.selectSignal(deskFeature.selectSong)()!).notes.length;
    TestBed.inject(Selecting).select([0, 1]);
    store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    TestBed.inject(Clipboard).copy(true);
    expect(count()).toBe(3);
    const refused = store.selectSignal(deskFeature.selectRefused)();
    expect(refused?.problem).toMatch(/\S/);
    expect(TestBed.inject(Said).text()).toBe('');
    store.dispatch(DeskActions.roleChanged({ role: 'writer' }));
    TestBed.inject(Clipboard).copy(true);
    expect(count()).toBe(1);
    expect(TestBed.inject(Said).text()).toBe('Cut 2 notes.');
  });
});
