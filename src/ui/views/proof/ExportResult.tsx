'use client';
import { say } from '@/texts/say';
import { specName } from '../../components/specName';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { formatBytes } from '@/core/base/units';
import { describeFile } from '@/core/specs/describe';
import { describeMeasured, filePasses, type Report } from '@/core/specs/report';
import { saveReport } from '@/state/files/exporting';

interface Props {
  report: Report;
  open: boolean;
  onClose: () => void;
}

/** What the written files are, read back from disk. */
export function ExportResult({ report, open, onClose }: Props) {
  return (
    <Dialog open={open} onClose={onClose} maxWidth="md" fullWidth>
      <DialogTitle>
        {say`${report.files.filter(filePasses).length} of ${report.files.length} written files pass “${specName(report.spec.name)}”`}
      </DialogTitle>
      <DialogContent>
        <Box
          sx={{ color: 'text.secondary', fontSize: 14, mb: 1 }}
        >{say`Each was read back from disk by another decoder than the one that knows how it was written, and measured.`}</Box>
        <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }} aria-label={say`Written files`}>
          {report.files.map((file) => (
            <Box
              component="li"
              key={file.fileName}
              sx={{ py: 1, borderBottom: 1, borderColor: 'divider', fontSize: 14 }}
            >
              <Box sx={{ display: 'flex', gap: 2 }}>
                <Box
                  sx={{
                    width: 60,
                    flexShrink: 0,
                    fontWeight: 700,
                    color: filePasses(file) ? 'success.main' : 'error.main',
                  }}
                >
                  {filePasses(file) ? say`Passes` : say`Faults`}
                </Box>
                <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
                  <b>{file.fileName}</b> · {formatBytes(file.bytes)}
                  {file.format && ` · ${describeFile(file.format)}`}
                  <Box sx={{ color: 'text.secondary' }}>{describeMeasured(file.judged)}</Box>
                  {[
                    file.mistake,
                    ...file.verdicts.filter(({ passes }) => !passes).map(({ message }) => message),
                    ...file.looks.map(({ message }) => message),
                  ]
                    .filter((message) => message !== null)
                    .map((message) => (
                      <Box key={message}>{message}</Box>
                    ))}
                  <Box
                    sx={{ fontFamily: 'monospace', fontSize: 11, color: 'text.secondary' }}
                  >{say`SHA-256 ${file.sha256}`}</Box>
                </Box>
              </Box>
            </Box>
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button color="secondary" onClick={() => saveReport('html')}>{say`Report for printing`}</Button>
        <Button color="secondary" onClick={() => saveReport('csv')}>{say`CSV`}</Button>
        <Button color="secondary" onClick={() => saveReport('json')}>{say`JSON`}</Button>
        <Button onClick={onClose}>{say`Close`}</Button>
      </DialogActions>
    </Dialog>
  );
}
