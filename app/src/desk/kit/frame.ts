/** A stretch of the picture's height, in px. */
export interface Frame {
  readonly top: number;
  readonly height: number;
}
