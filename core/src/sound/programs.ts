/** Names of the programs, from 0 to 127 (General MIDI System Level 1 sound set). */
export const PROGRAM_NAMES: readonly string[] =
  `Acoustic grand piano|Bright acoustic piano|Electric grand piano|Honky-tonk piano|Electric piano 1|Electric piano 2|Harpsichord|Clavi
Celesta|Glockenspiel|Music box|Vibraphone|Marimba|Xylophone|Tubular bells|Dulcimer
Drawbar organ|Percussive organ|Rock organ|Church organ|Reed organ|Accordion|Harmonica|Tango accordion
Nylon guitar|Steel guitar|Jazz guitar|Clean guitar|Muted guitar|Overdriven guitar|Distortion guitar|Guitar harmonics
Acoustic bass|Fingered bass|Picked bass|Fretless bass|Slap bass 1|Slap bass 2|Synth bass 1|Synth bass 2
Violin|Viola|Cello|Contrabass|Tremolo strings|Pizzicato strings|Orchestral harp|Timpani
String ensemble 1|String ensemble 2|Synth strings 1|Synth strings 2|Choir aahs|Voice oohs|Synth voice|Orchestra hit
Trumpet|Trombone|Tuba|Muted trumpet|French horn|Brass section|Synth brass 1|Synth brass 2
Soprano sax|Alto sax|Tenor sax|Baritone sax|Oboe|English horn|Bassoon|Clarinet
Piccolo|Flute|Recorder|Pan flute|Blown bottle|Shakuhachi|Whistle|Ocarina
Lead 1 (square)|Lead 2 (sawtooth)|Lead 3 (calliope)|Lead 4 (chiff)|Lead 5 (charang)|Lead 6 (voice)|Lead 7 (fifths)|Lead 8 (bass and lead)
Pad 1 (new age)|Pad 2 (warm)|Pad 3 (polysynth)|Pad 4 (choir)|Pad 5 (bowed)|Pad 6 (metallic)|Pad 7 (halo)|Pad 8 (sweep)
FX 1 (rain)|FX 2 (soundtrack)|FX 3 (crystal)|FX 4 (atmosphere)|FX 5 (brightness)|FX 6 (goblins)|FX 7 (echoes)|FX 8 (sci-fi)
Sitar|Banjo|Shamisen|Koto|Kalimba|Bagpipe|Fiddle|Shanai
Tinkle bell|Agogo|Steel drums|Woodblock|Taiko drum|Melodic tom|Synth drum|Reverse cymbal
Guitar fret noise|Breath noise|Seashore|Bird tweet|Telephone ring|Helicopter|Applause|Gunshot`.split(/[|\n]/);
