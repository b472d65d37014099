/** What an amount means, each in a sentence with a number. */
export const HINTS: Readonly<Record<string, string>> = {
  Strength: 'How far starts go to their lines: at 80 %, a note 20 ms late ends 4 ms late.',
  Swing: 'Where the off-beat lies in its pair: 50 % is straight, 66.7 % the triplet, 75 % three to one.',
  Tolerance: 'What is closer stays: at 6 ms, a note 5 ms late is left as played.',
  Reach: 'What is further stays: at 40 ms, a note 50 ms late was meant elsewhere.',
  'Chord spread kept': 'How much of a chord’s roll stays: at 50 %, 30 ms from first to last become 15 ms.',
  'Strength of the ends': 'How far ends go to their lines: at 50 %, an end 20 ms late ends 10 ms late.',
  'Timing of the groove': 'How much of the groove’s timing is taken: at 50 %, a line 10 ms late lies 5 ms late.',
  'Loudness of the groove': 'How much of the groove’s loudness is taken: at 0 %, every note keeps its own.',
  Lag: 'A steady delay, removed first: a part that is 24 ms late throughout comes to lie on its lines.',
  'Earlier · later': 'Added to every note at the end: −5 ms pushes ahead, +5 ms lays back.',
  Gap: 'Silence before the next note: at 10 ms, each note ends 10 ms before the next one starts.',
  Contrast: 'Loud against soft: at 50 %, velocities of 60 and 100 become 70 and 90.',
  'Chords together': 'How much of its random move a chord shares: at 100 %, its notes move as one.',
};
