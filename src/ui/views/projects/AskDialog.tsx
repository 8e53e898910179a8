'use client';
import { say } from '@/texts/say';
import { formatTime } from '@/core/base/units';
import { notifyError } from '@/state/page/notices';
import {
  deleteProject,
  duplicateProject,
  renameProject,
  type ProjectSummary,
} from '@/state/project/projects';
import { ConfirmDialog } from '../../components/ConfirmDialog';
import { UnusedDialog } from './UnusedDialog';
import { NameDialog } from '../../components/NameDialog';

export interface Asking {
  what: 'rename' | 'duplicate' | 'unused' | 'delete';
  summary: ProjectSummary;
}

/** What is asked before something is done with a whole project. */
export function AskDialog({ what, summary, onClose }: Asking & { onClose: () => void }) {
  const { id, name } = summary.project;
  switch (what) {
    case 'rename':
      return (
        <NameDialog
          title={say`Rename the project`}
          initial={name}
          action={say`Rename`}
          onClose={onClose}
          onName={(to) => void renameProject(id, to).catch(notifyError)}
        />
      );
    case 'duplicate':
      return (
        <NameDialog
          title={say`Duplicate the project`}
          initial={say`${name} (copy)`}
          action={say`Duplicate`}
          onClose={onClose}
          onName={(to) => void duplicateProject(id, to).catch(notifyError)}
        />
      );
    case 'unused':
      return <UnusedDialog projectId={id} name={name} onClose={onClose} />;
    case 'delete':
      return (
        <ConfirmDialog
          title={say`Delete “${name}”?`}
          text={say`${summary.parts === 1 ? say`Its one part goes` : say`Its ${summary.parts} parts go`} for good: ${formatTime(summary.heardSeconds)} of audio, all takes, scripts and marks. This cannot be undone. Save a project file first if you may want it again.`}
          action="Delete"
          onClose={onClose}
          onConfirm={() => void deleteProject(id).catch(notifyError)}
        />
      );
  }
}
