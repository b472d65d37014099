import type { Provider } from '@angular/core';
import { always, provideStrip } from '../kit/strip';
import { Analyst } from './analyst';
import { Leans } from './leans';
import { Messages } from './messages';

/** What fits, what leans, and the messages that follow from it. */
export const fitsRoom: Provider[] = [
  Analyst,
  Leans,
  provideStrip(() => ({ id: 'messages', place: 'head', order: 10, isOpen: always, component: Messages })),
];
