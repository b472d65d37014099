import { counted } from '../song';
import { formatGrid, isSwung, stepName, type Grid } from '../grid';

interface Figures {
  readonly grid: Grid;
  readonly missMs: number;
  readonly merges: number;
}

/**
 * One plain sentence on why a grid stands where it stands.
 * @param wanders whether its figures hold only where lines follow the player
 */
export function reasonFor(fit: Figures, best: Figures, rank: number, chords: number, wanders = false): string {
  const name = gridName(fit.grid);
  if (rank === 0) {
    const merges = fit.merges === 0 ? 'nothing merges' : `${counted(fit.merges, 'chord')} would merge`;
    return wanders
      ? `If the ${name} lines follow the player, most chords are within ${ms(fit.missMs)} of them, and ${merges}.`
      : `Most chords are within ${ms(fit.missMs)} of the ${name} lines, and ${merges}.`;
  }
  if (fit.merges > best.merges + Math.max(1, chords * 0.01)) {
    return `Too coarse: ${counted(fit.merges, 'chord')} would land on the line of the chord before.`;
  }
  if (fit.missMs > best.missMs * 1.3 + 1) {
    return `The typical miss is ${ms(fit.missMs)} instead of ${ms(best.missMs)}: these are not the lines that were meant.`;
  }
  if (fit.missMs <= best.missMs) return `Finer than needed: ${formatGrid(best.grid)} explains the notes as well.`;
  return `Nearly as good as ${formatGrid(best.grid)}; the typical miss is ${ms(fit.missMs)}.`;
}

/** A grid in words: `swung sixteenth`, `sixteenth and eighth triplet`. */
export function gridName(grid: Grid): string {
  const first = `${isSwung(grid) ? 'swung ' : ''}${stepName(grid)}`;
  return grid.mix ? `${first} and ${stepName(grid.mix)}` : first;
}

function ms(value: number): string {
  return `${value < 9.95 ? value.toFixed(1) : value.toFixed(0)} ms`;
}
