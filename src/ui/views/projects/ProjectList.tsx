'use client';
import { say } from '@/texts/say';
import { specName } from '../../components/specName';
import MoreHoriz from '@mui/icons-material/MoreHoriz';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { formatDistanceToNow } from 'date-fns';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useState } from 'react';
import { formatBytes, formatTime } from '@/core/base/units';
import { useSpace } from '@/state/keep/browserSpace';
import { saveProjectFile } from '@/state/files/projectFiles';
import type { ProjectSummary } from '@/state/project/projects';
import { Contained } from '../../components/Contained';
import type { Asking } from './AskDialog';
import { serif } from '../../theme/theme';

/** Loaded when something is asked. */
const AskDialog = dynamic(() => import('./AskDialog').then((loaded) => loaded.AskDialog));

export function ProjectList({ list, onOpen }: { list: ProjectSummary[]; onOpen: (id: string) => void }) {
  const [asking, setAsking] = useState<Asking | null>(null);
  return (
    <>
      <Table aria-label={say`Projects`}>
        <TableHead>
          <TableRow>
            <TableCell>{say`Name`}</TableCell>
            <TableCell>{say`Spec`}</TableCell>
            <TableCell align="right">{say`Recorded`}</TableCell>
            <TableCell align="right">{say`Parts`}</TableCell>
            <TableCell align="right">{say`Takes room`}</TableCell>
            <TableCell>{say`Last opened`}</TableCell>
            <TableCell component="td" />
          </TableRow>
        </TableHead>
        <TableBody>
          {list.map((summary) => (
            <Contained key={summary.project.id} what={say`This project`} columns={7}>
              <Row summary={summary} onOpen={onOpen} onAsk={(what) => setAsking({ what, summary })} />
            </Contained>
          ))}
        </TableBody>
      </Table>
      {asking && <AskDialog {...asking} onClose={() => setAsking(null)} />}
    </>
  );
}

function Row({
  summary,
  onOpen,
  onAsk,
}: {
  summary: ProjectSummary;
  onOpen: (id: string) => void;
  onAsk: (what: Asking['what']) => void;
}) {
  const { project, parts, heardSeconds, cues, broken } = summary;
  const bytes = useSpace(({ projects }) => projects.get(project.id) ?? 0);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const act = (action: () => void) => () => {
    setAnchor(null);
    action();
  };
  return (
    <TableRow
      hover
      sx={{ cursor: broken ? undefined : 'pointer' }}
      onClick={() => !broken && onOpen(project.id)}
    >
      <TableCell
        sx={{ fontFamily: serif, fontSize: 17, fontWeight: 600, maxWidth: 340, overflowWrap: 'anywhere' }}
      >
        {broken ? (
          project.name
        ) : (
          <Box
            component={Link}
            href={`/project/${project.id}/booth`}
            prefetch
            sx={{ color: 'inherit', textDecoration: 'none' }}
          >
            {project.name}
          </Box>
        )}
      </TableCell>
      {broken ? (
        <TableCell
          colSpan={5}
          sx={{ color: 'error.main' }}
        >{say`What is stored of this project cannot be read, so it cannot be opened. Its audio is still kept; open a project file of it, if there is one.`}</TableCell>
      ) : (
        <>
          <TableCell>{specName(project.spec.name)}</TableCell>
          <TableCell align="right" sx={{ fontVariantNumeric: 'tabular-nums' }}>
            {formatTime(heardSeconds)}
          </TableCell>
          <TableCell align="right">
            {parts}
            {cues.all > 0 && (
              <Box component="span" sx={{ display: 'block', color: 'text.secondary', fontSize: 12.5 }}>
                {say`${cues.done} of ${cues.all} cues done`}
              </Box>
            )}
          </TableCell>
          <TableCell align="right" sx={{ fontVariantNumeric: 'tabular-nums', whiteSpace: 'nowrap' }}>
            {formatBytes(bytes)}
          </TableCell>
          <TableCell>{formatDistanceToNow(project.openedAt, { addSuffix: true })}</TableCell>
        </>
      )}
      <TableCell align="right" onClick={(event) => event.stopPropagation()}>
        <IconButton
          size="small"
          aria-label={say`More about ${project.name}`}
          aria-haspopup="menu"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <MoreHoriz />
        </IconButton>
        <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
          <MenuItem disabled={broken} onClick={act(() => onAsk('rename'))}>{say`Rename`}</MenuItem>
          <MenuItem disabled={broken} onClick={act(() => onAsk('duplicate'))}>{say`Duplicate`}</MenuItem>
          <MenuItem
            disabled={broken}
            onClick={act(() => void saveProjectFile(project.id, project.name))}
          >{say`Save as a project file`}</MenuItem>
          <MenuItem
            disabled={broken}
            onClick={act(() => onAsk('unused'))}
          >{say`Remove unused audio …`}</MenuItem>
          <MenuItem onClick={act(() => onAsk('delete'))}>{say`Delete`}</MenuItem>
        </Menu>
      </TableCell>
    </TableRow>
  );
}
