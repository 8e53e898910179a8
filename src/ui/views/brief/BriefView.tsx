'use client';
import Box from '@mui/material/Box';
import { usePart } from '@/state/sheet/part';
import { useProject } from '@/state/project/openProject';
import { PartsList } from './PartsList';
import { ScriptEditor } from './ScriptEditor';
import { SpecForm } from './SpecForm';

/** What is agreed before anything is recorded: the specification, the parts, the script of the open part. */
export function BriefView() {
  const { project, parts } = useProject();
  const openId = usePart((state) => state.id);
  const open = parts.find((part) => part.id === openId);
  if (!project) return null;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <PartsList />
      <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, bgcolor: 'background.paper', display: 'flex' }}>
        {open && <ScriptEditor key={open.id} part={open} />}
      </Box>
      <SpecForm key={project.id} spec={project.spec} rateHz={project.rateHz} />
    </Box>
  );
}
