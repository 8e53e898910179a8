'use client';
import { language, say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useRef, useState, type ClipboardEvent } from 'react';
import { useDropzone } from 'react-dropzone';
import { toParolaError } from '@/core/base/errors';
import { splitIntoLines, splitRules, splitScript, type SplitRule } from '@/core/base/text';
import {
  checkScriptSize,
  longestScriptBytes,
  linesOfText,
  readScriptFile,
  saveScript,
  scriptEndings,
  setSplitRule,
  splitRule,
} from '@/state/project/scriptText';
import { useProject, type PartRecord } from '@/state/project/openProject';
import { usualWordsPerMinute, wordsIn } from '@/core/script/document';
import { formatTime } from '@/core/base/units';
import { paceOfProject } from '@/state/project/pace';
import { takeScript } from '@/state/sheet/scriptChapters';
import { ChoiceInPlace } from '../../components/ChoiceInPlace';
import { NamesDialog } from './NamesDialog';
import { PrintButton } from './PrintButton';
import { serif } from '../../theme/theme';
import { WhatIsWrong } from '../../components/WhatIsWrong';

const ruleNames: Record<SplitRule, string> = {
  sentences: say`a sentence`,
  lines: say`a line of the text`,
  paragraphs: say`a paragraph`,
};

/** How long a text will take to read, at the reader's own pace where that is known. */
function ExpectedLength({ text }: { text: string }) {
  const words = wordsIn(text);
  const own = paceOfProject();
  const pace = own ?? usualWordsPerMinute;
  const whose = own === null ? say`as most books are read` : say`as you have read so far in this project`;
  return (
    <span title={say`At ${Math.round(pace)} words a minute, ${whose}`}>
      {say`${' · '}${words.toLocaleString(language)} ${words === 1 ? say`word` : say`words`}, about ${formatTime((60 * words) / pace)}`}
    </span>
  );
}

const textOf = (part: PartRecord) => part.script.map((line) => line.text).join('\n');

/**
 * The script of a part, one script line to a row of text. Pasted and dropped text is split at its sentence
 * ends.
 */
export function ScriptEditor({ part }: { part: PartRecord }) {
  const [text, setText] = useState(() => textOf(part));
  const [error, setError] = useState<string | null>(null);
  const [naming, setNaming] = useState(false);
  const readOnly = useProject((state) => state.readOnly);
  const split = useProject(({ project }) => project?.split ?? 'sentences');
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
      return (
        text.slice(0, selectionStart) + splitScript(pasted, splitRule()).join('\n') + text.slice(selectionEnd)
      );
    });
  };

  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    multiple: false,
    disabled: readOnly,
    onDrop: ([file]) => {
      if (!file) return;
      void attempt(async () => {
        const taken = await takeScript(await readScriptFile(file), file.name);
        return taken === null ? typed.current : linesOfText(taken).join('\n');
      });
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
      <input {...getInputProps({ accept: scriptEndings, 'aria-label': say`Script file` })} />
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5 }}>
        <Typography variant="h2" noWrap sx={{ flex: 1 }}>{say`Script of ${part.name}`}</Typography>
        <Typography color="text.secondary" variant="body2" noWrap>
          {lines} {lines === 1 ? say`line` : say`lines`}
          {lines > 0 && <ExpectedLength text={text} />}
        </Typography>
      </Box>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          flexWrap: 'wrap',
          columnGap: 0.5,
          mt: 0.5,
          mb: 1,
          '& button': { whiteSpace: 'nowrap', px: 1, minWidth: 0 },
        }}
      >
        <Typography variant="body2" color="text.secondary" sx={{ flex: '1 0 auto', whiteSpace: 'nowrap' }}>
          {say`A line is `}
          <ChoiceInPlace
            label={say`What a line of the script is, when text is pasted or read`}
            value={split}
            choices={splitRules.map((key) => ({ key, name: ruleNames[key] }))}
            disabled={readOnly}
            onChange={(key) => setSplitRule(key as SplitRule)}
          />
        </Typography>
        <Button
          size="small"
          color="inherit"
          disabled={readOnly || lines === 0}
          onClick={() => void attempt(() => splitIntoLines(text).join('\n'))}
        >{say`Split at sentence ends`}</Button>
        <Button size="small" color="inherit" disabled={readOnly} onClick={open}>{say`From a file`}</Button>
        <Button size="small" color="inherit" onClick={() => setNaming(true)}>{say`Names …`}</Button>
        <PrintButton part={part} />
        {naming && <NamesDialog onClose={() => setNaming(false)} />}
      </Box>
      {error && (
        <WhatIsWrong about="brief" onClose={() => setError(null)} sx={{ mb: 1.5 }}>
          {error}
        </WhatIsWrong>
      )}
      <Box
        component="textarea"
        value={text}
        readOnly={readOnly}
        aria-label={say`Script`}
        placeholder={say`Paste the script here, or drop a file: text, Markdown, DOCX, EPUB, PDF, RTF, SRT or VTT. One line is one sentence to read.`}
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
