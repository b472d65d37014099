const HELP = `Early Sparrow: corrects the timing of recorded MIDI performances.

  npm run --silent timing -- analyse FILE… [--json]
  npm run --silent timing -- correct FILE… --out FILE|FOLDER [options]
  npm run --silent timing -- fit FILE --out FILE [options]
  npm run --silent timing -- render FILE --out FILE.wav [options]
  npm run --silent timing -- hits FILE.wav --out FILE [--bars 2]

analyse tells for each track which grids fit, the lag and the swing. With --json (or for one file
when the output is not a terminal) it prints one JSON document a file.

correct writes corrected files; what is not a note stays as it was. Its options:
  --recipe FILE|NAME      a saved treatment, or a built-in one such as "Tight drums"
  --rule FILE|NAME        a rule before the treatment, such as "Ghosts out"; as often as wished
  --grid GRID|auto        1/16, 1/8T, 1/8., "1/16 5:4", 1/16+1/8T, "1/16 ~62%", or what fits
  --groove FILE|NAME      a groove in place of the grid, such as "Night ferry"
  --loudness N%           how much of the groove's loudness to take (default: 0%)
  --with TRACK[:played]   lines move to that track's notes where they are near, as corrected or as played
  --strength 0.8          share of the way to the line; --times 2 goes it again
  --lines nearest|follow  follow keeps to a player who drifts against the click
  --tolerance 8ms         leave what is closer;  --reach 40% leaves what is further
  --direction early|late|both
  --spread 0.5            how much of a chord's spread full strength leaves
  --restart bar|song      where lines are counted from
  --lengths line|steps|legato[:GAP]|fixed:1/16|end|none
  --lag MS|auto           take away a steady delay first
  --push 5ms              afterwards, later (or -5ms, earlier)
  --velocity 50%|+8|=90   less contrast, louder, all equal; several with commas
  --humanize 5ms --shape even|bell|drift --seed 7
  --doubles keep|drop     of notes that come to start together
  --tracks 1,3            only these, as analyse numbers them
  --report FILE           every note before and after, as JSON
  --force                 replace files that are there

fit finds the beats of a take that was played without a click and writes a tempo map under which
every note sounds where it did. Its options:
  --changes 35%           from few changes of tempo (0) to one at each beat (100%)
  --tempo 90|60-80        about how fast, in beats a minute, where the half or the double was found
  --reading 2             another reading of the beats, of those that are named with the first
  --meter 3               beats a bar;  --downbeat 2  the found beat that the first whole bar begins with;
                          named again (--downbeat 2 --downbeat 31), a bar begins anew there, as after a fermata
  --steady 80%            bring the playing to one tempo, so far of the way
  --track 1               find the beats in this track only

render writes a WAV file of what a MIDI file sounds like, each start on its very sample. Its options:
  --voices bank|small|plain   sampled instruments, small built-in ones, or a short tone for all
  --rate 44100|48000      --bits 16|24      --click   with the click

hits finds what is struck in a WAV file and writes it as a MIDI file of whole bars: analyse tells its
swing, and another take can be lined up with it.

Amounts are in ms, t (ticks of the song, 960 or more a quarter) or %. Data goes to standard output, all
else to standard error. Exit codes: 0 done, 1 some files failed, 2 the command could not be read.

Examples:
  npm run --silent timing -- analyse take.mid
  npm run --silent timing -- correct take.mid --out tight.mid --grid 1/16 --strength 80% --tolerance 6ms
  npm run --silent timing -- correct takes/*.mid --out tidy --recipe "Tight but breathing" --report tidy.json
`;

/** Within the project the command goes by a script of npm; installed it has its own name. */
const SCRIPT = 'npm run --silent timing --';

/** The help, by the name that the program was started under. */
export function helpFor(started: string | undefined): string {
  return started?.endsWith('timing.mjs') ? HELP : HELP.replaceAll(SCRIPT, 'early-sparrow');
}
