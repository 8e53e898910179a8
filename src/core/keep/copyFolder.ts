import { safeName } from '../formats/fileNames';
import { bytesPerSample, wavHeader } from '../formats/wavWriter';

/**
 * The layout of the folder that holds a copy of one project, outside the browser; docs/formats.md describes
 * it. Nothing in it is ever removed: recordings are added, and the states of the project take ten places in
 * turn.
 */
export const audioFolder = 'audio';
export const filmFolder = 'films';
export const stateFolder = 'states';
/** What `sha256sum --check` (GNU coreutils) reads. */
export const sumsName = 'SHA256SUMS';
export const aboutName = 'About this folder.txt';
export const statesKept = 10;

export const audioName = (id: string) => `${id}.wav`;
export const audioPath = (id: string) => `${audioFolder}/${audioName(id)}`;
export const filmPath = (id: string) => `${filmFolder}/${id}`;
/** States are counted from 0; the one after the tenth takes the place of the first. */
export const stateName = (sequence: number) => `${sequence % statesKept}.json`;

const idLetters = 8;
/** A project's own folder inside the one that was chosen: told apart by the beginning of its id. */
export const copyFolderName = (projectName: string, projectId: string) =>
  `${safeName(projectName)}-${projectId.slice(0, idLetters)}`;

/** A recording as far as its copy goes. */
export interface CopiedSource {
  id: string;
  rateHz: number;
  channels: number;
  /** All of it, with what was captured before its take began. */
  frames: number;
}

export const audioFormat = ({ rateHz, channels }: CopiedSource) =>
  ({ encoding: 'float32', rateHz, channels, dither: 'none' }) as const;

/** Bytes of the WAV file of a recording. */
export const audioBytes = (source: CopiedSource): number =>
  wavHeader(audioFormat(source), source.frames).length +
  source.frames * source.channels * bytesPerSample('float32');

/** What the folder says of itself to whoever finds it. */
export const aboutText = (projectName: string) =>
  `This folder is the copy that Parola keeps of the project “${projectName}”.

${audioFolder}/       every recording as 32-bit float WAV, with all takes
${filmFolder}/       films, as the files they were
${stateFolder}/      the last ${statesKept} states of the project (JSON); the one with the highest "sequence" is the latest
${sumsName}   checksums of the recordings: sha256sum --check ${sumsName}

Parola opens it under Projects, “Open a folder”. It adds to this folder and removes nothing from it.
`;
