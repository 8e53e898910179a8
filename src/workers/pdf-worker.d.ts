/** The package describes its interface only; this is what does the work, loaded for its effect. */
declare module 'pdfjs-dist/legacy/build/pdf.worker.mjs' {
  export const WorkerMessageHandler: unknown;
}
