'use client';
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useRef, useState, type ClipboardEvent } from 'react';
import { useDropzone } from 'react-dropzone';
import { toParolaError } from '@/core/base/errors';
import { splitIntoLines } from '@/core/base/text';
import { checkScriptSize, longestScriptBytes, readScriptFile, saveScript } from '@/state/project/scriptText';
import { useProject, type PartRecord } from '@/state/project/openProject';
import { serif } from '../../theme/theme';

const textOf = (part: PartRecord) => part.script.map((line) => line.text).join('\n');

/**
 * The script of a part, one script line to a row of text. Pasted and dropped text is split at its sentence
 * ends.
 */
export function ScriptEditor({ part }: { part: PartRecord }) {
  const [text, setText] = useState(() => textOf(part));
  const [error, setError] = useState<string | null>(null);
  const readOnly = useProject((state) => state.readOnly);
  const lines = text.split('\n').filter((line) => line.trim()).length;

  const attempt = async (work: () => Promise<string> | string) => {
    try {
      const changed = await work();
      checkScriptSize(new Blob([changed]).size);
      setText(changed);
      saveScript(part.id, changed);
      setError(null);
    } catch (thrown) {
      setError(toParolaError(thrown).message);
    }
  };

  // A click in the header leaves the focus where it is: what was typed is kept when the Brief goes, too.
  const typed = useRef(text);
  useEffect(() => {
    typed.current = text;
  }, [text]);
  useEffect(
    () => () => {
      if (new Blob([typed.current]).size <= longestScriptBytes) saveScript(part.id, typed.current);
    },
    [part.id],
  );

  const paste = (event: ClipboardEvent<HTMLTextAreaElement>) => {
    const { selectionStart, selectionEnd } = event.currentTarget;
    const pasted = event.clipboardData.getData('text/plain');
    event.preventDefault();
    void attempt(() => {
      checkScriptSize(new Blob([pasted]).size);
      return text.slice(0, selectionStart) + splitIntoLines(pasted).join('\n') + text.slice(selectionEnd);
    });
  };

  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    multiple: false,
    disabled: readOnly,
    onDrop: ([file]) => {
      if (file) void attempt(async () => (await readScriptFile(file)).join('\n'));
    },
  });

  return (
    <Box
      {...getRootProps()}
      sx={{
        flex: 1,
        display: 'flex',
        flexDirection: 'column',
        p: 3,
        minWidth: 0,
        outline: isDragActive ? '2px dashed' : undefined,
        outlineOffset: -10,
        outlineColor: 'secondary.main',
      }}
    >
      <input {...getInputProps({ accept: '.txt,.text,.md,.markdown', 'aria-label': 'Script file' })} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 1.5 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          Script of {part.name}
        </Typography>
        <Typography color="text.secondary" variant="body2">
          {lines} line{lines === 1 ? '' : 's'}
        </Typography>
        <Button
          size="small"
          color="inherit"
          disabled={readOnly || lines === 0}
          onClick={() => void attempt(() => splitIntoLines(text).join('\n'))}
        >
          Split at sentence ends
        </Button>
        <Button size="small" color="inherit" disabled={readOnly} onClick={open}>
          From a file
        </Button>
      </Box>
      {error && (
        <Alert severity="error" onClose={() => setError(null)} sx={{ mb: 1.5 }}>
          {error}
        </Alert>
      )}
      <Box
        component="textarea"
        value={text}
        readOnly={readOnly}
        aria-label="Script"
        placeholder="Paste the script here, or drop a .txt or .md file. One line is one sentence to read."
        onChange={(event) => setText(event.target.value)}
        onPaste={paste}
        onBlur={() => void attempt(() => text)}
        spellCheck={false}
        sx={{
          flex: 1,
          resize: 'none',
          border: 1,
          borderColor: 'divider',
          borderRadius: 2,
          bgcolor: 'background.default',
          color: 'text.primary',
          p: 2.5,
          fontFamily: serif,
          fontSize: 17,
          lineHeight: 1.75,
        }}
      />
    </Box>
  );
}
