'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Stack from '@mui/material/Stack';
import dynamic from 'next/dynamic';
import { useEffect, useLayoutEffect, useRef } from 'react';
import { usePathname } from 'next/navigation';
import { helpAt } from '@/core/base/helpIds';
import { dismiss, useNotices, type Notice } from '@/state/page/notices';
import { MoreInHelp } from './MoreInHelp';

/** What knows the keys knows all commands: nothing for a page that has none. */
const WithKeys = dynamic(() => import('../commands/WithKeys').then((loaded) => loaded.WithKeys));

/** Time to read what only says how things are. */
const shownMs = 9000;

/**
 * Messages that belong to no field, newest last. Warnings and errors stay until they are dismissed, so that
 * nobody misses why a recording stopped; the others go by themselves.
 */
export function Notices() {
  const notices = useNotices((state) => state.notices);
  const list = useRef<HTMLDivElement>(null);
  // An open dialog hides all else from screen readers; what is said meanwhile is meant to be heard.
  useLayoutEffect(() => {
    if (notices.length > 0) list.current?.removeAttribute('aria-hidden');
  }, [notices]);
  return (
    <Stack
      ref={list}
      spacing={1}
      sx={{
        position: 'fixed',
        right: 24,
        bottom: 96,
        zIndex: 1500,
        width: 440,
        maxWidth: '90vw',
        // Beside the panels whose buttons are at the foot, not over them.
        [`body:has(aside[aria-label="${say`Export`}"]) &`]: { right: 342 },
        [`body:has(form[aria-label="${say`Specification`}"]) &`]: { right: 384 },
        // A dialog's buttons are at its foot: messages make way.
        'body:has(.MuiDialog-root) &': { bottom: 'auto', top: 12 },
      }}
      role="log"
    >
      {notices.slice(-4).map((notice) => (
        <Message key={notice.id} notice={notice} />
      ))}
    </Stack>
  );
}

function Message({ notice: { id, severity, text, help } }: { notice: Notice }) {
  const passing = severity === 'info' || severity === 'success';
  const path = usePathname();
  // What went wrong has more to be said about it in the help for what is shown, at least.
  const about = help ?? (passing ? undefined : helpAt(path));
  useEffect(() => {
    if (!passing) return;
    const timer = setTimeout(() => dismiss(id), shownMs);
    return () => clearTimeout(timer);
  }, [passing, id]);
  return (
    <Alert
      severity={severity}
      variant="outlined"
      onClose={() => dismiss(id)}
      sx={{ bgcolor: 'background.paper', boxShadow: 3 }}
    >
      {text.includes('{key:') ? <WithKeys text={text} /> : text}
      {about && <MoreInHelp about={about} wrong={!passing} />}
    </Alert>
  );
}
