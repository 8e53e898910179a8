/** How a cue is recorded and run through dry. */
export interface CueSettings {
  /** Heard and seen before the line begins, in seconds. */
  readonly runUpSeconds: number;
  /** Three beeps, a second apart; the line begins where the fourth would fall. */
  readonly beeps: boolean;
  /** A line that moves towards the place where the talent begins. */
  readonly sweep: boolean;
  /** The recording ends so long after the line; ignored where it runs on. */
  readonly runOutSeconds: number;
  readonly end: 'out' | 'on';
  /** What follows when a take has ended by itself. */
  readonly then: 'stay' | 'next' | 'play';
  /** Whether the guide, or the sound of the picture, is heard while the line is said. */
  readonly guide: 'heard' | 'off';
  /** A take that is fitted is made faster or slower by at most so much, 0 to 0.2. */
  readonly stretch: number;
  /** Recorded is the track of who speaks it, or every one that is armed: several who speak at once. */
  readonly voices: 'own' | 'armed';
}

export const cueSettingLimits = {
  runUpSeconds: { least: 3, most: 15 },
  runOutSeconds: { least: 0, most: 10 },
  stretch: { least: 0, most: 0.2 },
} as const;

export const defaultCueSettings: CueSettings = {
  runUpSeconds: 3,
  beeps: true,
  sweep: true,
  runOutSeconds: 1,
  end: 'out',
  then: 'stay',
  guide: 'heard',
  stretch: 0.08,
  voices: 'own',
};
