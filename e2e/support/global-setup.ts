import { makeSpeechFile } from './audio';
import { startServer } from './server';

export default async function setup() {
  makeSpeechFile();
  const server = await startServer();
  (globalThis as { parolaServer?: unknown }).parolaServer = server;
}
