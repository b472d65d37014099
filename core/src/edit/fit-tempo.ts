import { steadier, type BeatFit } from '../beats';
import type { Edit } from './edit';

/**
 * The edit that writes a fitted tempo map into a song: every note sounds where it did, or steadier.
 * @param steadiness 0 keeps the playing as it is, 1 brings it to one tempo
 */
export function tempoFitEdit(name: string, { fitted, ppq }: BeatFit, steadiness = 0): Edit {
  const { tempo: under, meter } = fitted;
  const tempo = steadiness > 0 ? steadier(fitted, steadiness) : under;
  return { kind: 'song-time', name, ppq, meter, under, tempo };
}
