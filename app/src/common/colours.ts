/** The colours that tracks and parts can have, by their index in a song. They never tell early from late: see the theme. */
export const COLOURS: readonly { readonly name: string; readonly css: string }[] = [
  { name: 'Brick', css: '#b0503c' },
  { name: 'Straw', css: '#b98a2e' },
  { name: 'Olive', css: '#86892f' },
  { name: 'Leaf', css: '#4d8b4c' },
  { name: 'Pine', css: '#2f8574' },
  { name: 'Lake', css: '#3b829f' },
  { name: 'Dusk blue', css: '#5c72b0' },
  { name: 'Violet', css: '#7c62ab' },
  { name: 'Heather', css: '#a05a98' },
  { name: 'Rose', css: '#b3516f' },
  { name: 'Earth', css: '#876d56' },
  { name: 'Stone', css: '#6d777c' },
];

/** The colour of a part: its own, else its track's; null for neither. */
export function colourOf(
  part: { readonly colour: number | null } | null,
  track: { readonly colour: number | null },
): string | null {
  const index = part?.colour ?? track.colour;
  return index === null ? null : COLOURS[index].css;
}
