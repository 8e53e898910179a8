import { say } from '@/texts/say';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import List from '@mui/material/List';
import ListItemButton from '@mui/material/ListItemButton';
import ListItemText from '@mui/material/ListItemText';
import { useEffect, useState } from 'react';
import { partsElsewhere, type Reference } from '@/state/chain/matching';
import { notifyError } from '@/state/page/notices';
import { useProject } from '@/state/project/openProject';
import { readProjects, useProjects } from '@/state/project/projects';

interface Props {
  onClose: () => void;
  onChoose: (reference: Reference) => void;
}

/** Chooses a part of another project of this browser: the project first, then its part. */
export function ElsewhereDialog({ onClose, onChoose }: Props) {
  const list = useProjects((state) => state.list);
  const openId = useProject((state) => state.project?.id);
  const [within, setWithin] = useState<{
    id: string;
    name: string;
    parts: { id: string; name: string }[];
  } | null>(null);
  useEffect(() => void readProjects(), []);
  const others = (list ?? []).map(({ project }) => project).filter(({ id }) => id !== openId);
  const enter = (id: string, name: string) =>
    partsElsewhere(id)
      .then((parts) => setWithin({ id, name, parts }))
      .catch(notifyError);
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="xs"
      aria-labelledby="elsewhere-title"
      transitionDuration={0}
    >
      <DialogTitle id="elsewhere-title">
        {within ? say`A part of “${within.name}”` : say`Another project`}
      </DialogTitle>
      <DialogContent>
        {!within && list !== null && others.length === 0 && say`There is no other project in this browser.`}
        <List dense>
          {within
            ? within.parts.map(({ id, name }) => (
                <ListItemButton
                  key={id}
                  onClick={() =>
                    onChoose({
                      kind: 'elsewhere',
                      projectId: within.id,
                      partId: id,
                      name: `${within.name}: ${name}`,
                    })
                  }
                >
                  <ListItemText primary={name} />
                </ListItemButton>
              ))
            : others.map(({ id, name }) => (
                <ListItemButton key={id} onClick={() => void enter(id, name)}>
                  <ListItemText primary={name} />
                </ListItemButton>
              ))}
        </List>
      </DialogContent>
    </Dialog>
  );
}
