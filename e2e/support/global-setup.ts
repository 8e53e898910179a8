import { browserFor, quiet } from './app';
import { makeSpeechFile } from './audio';
import { makePromptFiles } from './prompts';
import { startServer } from './server';
import { makeWarmProfile } from './warm';

export default async function setup() {
  makeSpeechFile();
  makePromptFiles();
  const server = await startServer();
  await makeWarmProfile(browserFor(false), quiet);
  (globalThis as { parolaServer?: unknown }).parolaServer = server;
}
