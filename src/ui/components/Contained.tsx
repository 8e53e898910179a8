'use client';
import { say } from '@/texts/say';
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import TableCell from '@mui/material/TableCell';
import TableRow from '@mui/material/TableRow';
import type { ReactNode } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';

interface Props {
  /** What it is, as in “This take cannot be shown”. */
  what: string;
  /** The number of columns, where it is a row of a table. */
  columns?: number;
  children: ReactNode;
}

/** What cannot be shown takes nothing else with it: a row its list, a list its screen. */
export function Contained({ what, columns, children }: Props) {
  return (
    <ErrorBoundary
      fallbackRender={(failure) =>
        columns === undefined ? (
          <NotShown what={what} {...failure} />
        ) : (
          <TableRow>
            <TableCell colSpan={columns}>
              <NotShown what={what} {...failure} />
            </TableCell>
          </TableRow>
        )
      }
    >
      {children}
    </ErrorBoundary>
  );
}

export function NotShown({ what, resetErrorBoundary }: Omit<FallbackProps, 'error'> & { what: string }) {
  return (
    <Alert severity="error" sx={{ m: 1 }}>
      {say`${what} cannot be shown. Nothing is lost, and everything else can be used.`}
      <Button
        size="small"
        color="inherit"
        onClick={resetErrorBoundary}
        sx={{ display: 'block', mt: 0.5 }}
      >{say`Try again`}</Button>
    </Alert>
  );
}
