import type { ScriptDocument } from '@/core/script/document';

export type ScriptJobs = {
  /** Reads the text of a DOCX, EPUB or PDF file. */
  read: { input: { file: File; kind: 'docx' | 'epub' | 'pdf' }; output: ScriptDocument };
};
