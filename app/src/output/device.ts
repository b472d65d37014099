/** Something outside that tracks are played on: it is sent whole messages, each for a time of the page's clock in ms. */
export interface OutputDevice {
  readonly id: string;
  readonly name: string;
  send(bytes: readonly number[], at: number): void;
  /** Forgets what was sent for later. @returns whether it can: not every browser takes back what it was given */
  clear(): boolean;
}
