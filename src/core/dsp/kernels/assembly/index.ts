export { weightedHops, hopSquares, peaks } from './levels';
export { truePeak } from './truePeak';
export { spread, resample, resampleBetween } from './resample';
export { pack24, packPairs24, unpack24, unpackPairs24 } from './pcm';
export { sections } from './biquads';
export { cepstra } from './cepstra';
export { spectra, addFrames } from './spectra';
export { searchTemplate, planes } from './warping';
export { flacResidual } from './flac';
