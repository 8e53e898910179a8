/**
 * The frame of its own clock at which a context stands, `ahead` seconds from now. Its time is a number of
 * frames divided by the rate: multiplied again it can lie a hair above that number, and to round it up would
 * name a frame that has not been captured yet. Rounds to the nearest.
 */
export const contextFrame = (
  { currentTime, sampleRate }: Pick<BaseAudioContext, 'currentTime' | 'sampleRate'>,
  ahead = 0,
): number => Math.round((currentTime + ahead) * sampleRate);
