'use client';
import { language, say, type Language } from '@/texts/say';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import Markdown from 'react-markdown';
import { wrongSection } from '@/core/base/helpIds';
import { matching } from '@/core/base/helpSearch';
import { PageHeader } from '../../components/PageHeader';
import { serif } from '../../theme/theme';

interface Page {
  id: string;
  title: string;
  text: string;
}

/** One page for each screen, all of them on this one, so that a word is found wherever it stands. */
export function HelpView({ pages: inLanguages }: { pages: Readonly<Record<Language, readonly Page[]>> }) {
  const pages = inLanguages[language];
  const [query, setQuery] = useState('');
  const found = matching(pages, query);
  useEffect(() => {
    // The page that was asked for is drawn by now.
    document.getElementById(location.hash.slice(1))?.scrollIntoView();
  }, []);
  return (
    <Box sx={{ minHeight: '100dvh' }}>
      <PageHeader />
      <Box sx={{ display: 'flex', gap: 5, maxWidth: 980, mx: 'auto', px: 3, py: 4 }}>
        <Box
          component="nav"
          aria-label={say`Pages`}
          sx={{ width: 200, flexShrink: 0, position: 'sticky', top: 24, alignSelf: 'flex-start' }}
        >
          <TextField
            label={say`Find in the help`}
            type="search"
            size="small"
            fullWidth
            autoFocus
            value={query}
            onChange={({ target }) => setQuery(target.value)}
            sx={{ mb: 2 }}
          />
          {found.map(({ id, title }) => (
            <Link
              key={id}
              href={`#${id}`}
              underline="hover"
              color="inherit"
              sx={{ display: 'block', py: 0.5 }}
            >
              {title}
            </Link>
          ))}
        </Box>
        <Box component="main" sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="h1" sx={{ mb: 3 }}>{say`Help`}</Typography>
          {found.length === 0 && (
            <Typography role="status">{say`No page has these words. Try fewer, or others.`}</Typography>
          )}
          {found.map(({ id, title, text }) => (
            <Box key={id} component="section" id={id} aria-label={title} sx={styles}>
              <h2>{title}</h2>
              <Markdown
                components={{
                  h2: ({ children }) => <Heading page={id} title={title} text={String(children)} />,
                }}
              >
                {text}
              </Markdown>
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

/** What goes wrong is come to from messages: it says what it is about. */
function Heading({ page, title, text }: { page: string; title: string; text: string }) {
  if (text !== say`When something goes wrong`) return <h3>{text}</h3>;
  return (
    <h3 id={wrongSection(page)}>
      {text} <small>{title}</small>
    </h3>
  );
}

const styles = {
  mb: 5,
  scrollMarginTop: 16,
  fontSize: 16,
  lineHeight: 1.65,
  '& h2': {
    fontFamily: serif,
    fontSize: '1.5rem',
    m: 0,
    mb: 1,
    borderBottom: 1,
    borderColor: 'divider',
    pb: 0.5,
  },
  '& h3': { fontFamily: serif, fontSize: '1.1rem', mt: 2.5, mb: 0.5, scrollMarginTop: 16 },
  '& small': { ml: 1, fontWeight: 400, color: 'text.secondary' },
  '& p': { my: 1, maxWidth: 680 },
  '& li': { maxWidth: 660 },
  '& code': { fontSize: '0.92em' },
} as const;
