import { makeSpeechFile } from './audio';
import { makePromptFiles } from './prompts';
import { startServer } from './server';

export default async function setup() {
  makeSpeechFile();
  makePromptFiles();
  const server = await startServer();
  (globalThis as { parolaServer?: unknown }).parolaServer = server;
}
