'use client';
import { useEffect } from 'react';
import { useDropzone } from 'react-dropzone';
import { maybeSound, offerFiles } from '@/state/files/importing';

const offer = (files: readonly File[]) => void offerFiles(files.filter(maybeSound));

/**
 * Sound files dropped anywhere on a project, or pasted, are offered for import. What is no sound is left to
 * whoever wants it.
 */
export function useFileDrops() {
  useEffect(() => {
    const paste = ({ clipboardData }: ClipboardEvent) => {
      const files = [...(clipboardData?.files ?? [])];
      if (files.length > 0) offer(files);
    };
    window.addEventListener('paste', paste);
    return () => window.removeEventListener('paste', paste);
  }, []);
  return useDropzone({ noClick: true, noKeyboard: true, onDrop: offer });
}
