import type { Provider } from '@angular/core';
import { arrangeRoom } from './arrange/room';
import { filesRoom } from './files/room';
import { fitsRoom } from './fits/room';
import { handRoom } from './hand/room';
import { helpRoom } from './help/room';
import { historyRoom } from './history/room';
import { kit, verbs } from './kit/room';
import { listeningRoom } from './listening/room';
import { pictureRoom } from './picture/room';
import { recordingRoom } from './recording/room';
import { remedyRoom } from './remedy/room';
import { reportRoom } from './report/room';
import { rulesRoom } from './rules/room';
import { shapeRoom } from './shape/room';
import { tempoRoom } from './tempo/room';
import { tracksRoom } from './tracks/room';
import { treatmentRoom } from './treatment/room';

/** The rooms of the desk; each tells on one page what it contributes. */
export const ROOMS: Provider[] = [
  kit,
  handRoom,
  pictureRoom,
  shapeRoom,
  rulesRoom,
  historyRoom,
  arrangeRoom,
  tracksRoom,
  treatmentRoom,
  fitsRoom,
  listeningRoom,
  recordingRoom,
  tempoRoom,
  reportRoom,
  remedyRoom,
  filesRoom,
  helpRoom,
  verbs,
];
