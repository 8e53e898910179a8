'use client';
import { say } from '@/texts/say';
import Add from '@mui/icons-material/Add';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import DragIndicator from '@mui/icons-material/DragIndicator';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  closestCenter,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  SortableContext,
  arrayMove,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { useState } from 'react';
import { formatTime } from '@/core/base/units';
import { openImport } from '@/state/files/importing';
import { usePart } from '@/state/sheet/part';
import { changePart, reorderParts } from '@/state/project/settings';
import { keepOpenAsTemplate } from '@/state/sheet/keepTemplate';
import { addFurtherPart, removePart, selectPart } from '@/state/sheet/parts';
import { useProject, type PartRecord } from '@/state/project/openProject';
import { ConfirmDialog } from '../../components/ConfirmDialog';
import { movingWords } from '../../components/movingWords';
import { NameDialog } from '../../components/NameDialog';
import { VirtualList } from '../../components/VirtualList';
import { serif } from '../../theme/theme';

/** Parts in the order of their files: rename in place, drag (or lift with Space) to reorder. */
export function PartsList() {
  const { parts, project, readOnly } = useProject();
  const [naming, setNaming] = useState(false);
  const [deleting, setDeleting] = useState<PartRecord | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = parts.map((part) => part.id);
  const drop = ({ active, over }: DragEndEvent) => {
    if (over && over.id !== active.id)
      reorderParts(arrayMove(ids, ids.indexOf(String(active.id)), ids.indexOf(String(over.id))));
  };
  return (
    <Box
      sx={{
        width: 300,
        flexShrink: 0,
        borderRight: 1,
        borderColor: 'divider',
        p: 2,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'stretch',
        minHeight: 0,
      }}
    >
      <Typography variant="h2" sx={{ mb: 1.5 }}>{say`Parts`}</Typography>
      <DndContext
        id="parts"
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={drop}
        accessibility={movingWords}
      >
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <VirtualList
            items={parts}
            keyOf={({ id }) => id}
            estimate={() => 42}
            row={(part, index) => (
              <PartRow part={part} number={index + 1} onDelete={() => setDeleting(part)} />
            )}
            what={say`This part`}
            label={say`Parts`}
            fitting
          />
        </SortableContext>
      </DndContext>
      <Button
        startIcon={<Add />}
        color="inherit"
        disabled={readOnly}
        onClick={() => void addFurtherPart()}
        sx={{ mt: 1, alignSelf: 'flex-start', flexShrink: 0 }}
      >{say`Add a part`}</Button>
      <Button
        color="inherit"
        disabled={readOnly}
        onClick={openImport}
        sx={{ mt: 1, alignSelf: 'flex-start', flexShrink: 0 }}
      >{say`Import sound`}</Button>
      <Button
        color="inherit"
        onClick={() => setNaming(true)}
        sx={{ mt: 1, alignSelf: 'flex-start', flexShrink: 0 }}
      >{say`Keep as a template …`}</Button>
      {naming && (
        <NameDialog
          title={say`Keep as a template`}
          initial={project?.name ?? ''}
          action={say`Keep`}
          onClose={() => setNaming(false)}
          onName={(name) => void keepOpenAsTemplate(name)}
        />
      )}
      {deleting && (
        <ConfirmDialog
          title={say`Delete “${deleting.name}”?`}
          text={say`The part, its script, its marks and the takes recorded in it go for good. This cannot be undone.`}
          action="Delete"
          onClose={() => setDeleting(null)}
          onConfirm={() => void removePart(deleting.id)}
        />
      )}
    </Box>
  );
}

function PartRow({ part, number, onDelete }: { part: PartRecord; number: number; onDelete: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: part.id });
  const openId = usePart((state) => state.id);
  const readOnly = useProject((state) => state.readOnly);
  const rate = useProject((state) => state.project?.rateHz ?? 48_000);
  const open = part.id === openId;
  const rename = (name: string) => {
    if (name.trim() && name !== part.name) changePart(part.id, { name: name.trim() });
  };
  return (
    <Box
      ref={setNodeRef}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      onClick={() => void selectPart(part.id)}
      aria-current={open ? 'true' : undefined}
      sx={{
        display: 'flex',
        alignItems: 'center',
        borderRadius: 1.5,
        mb: 0.5,
        pr: 0.5,
        bgcolor: open ? 'page.wash' : undefined,
      }}
    >
      <IconButton
        size="small"
        disabled={readOnly}
        {...attributes}
        {...listeners}
        aria-label={say`Move ${part.name}`}
        sx={{ cursor: 'grab' }}
      >
        <DragIndicator fontSize="small" />
      </IconButton>
      <Box component="span" sx={{ color: 'text.secondary', width: 20, fontSize: 13 }}>
        {number}
      </Box>
      <InputBase
        key={part.name}
        defaultValue={part.name}
        readOnly={readOnly}
        inputProps={{ 'aria-label': say`Name of part ${number}`, maxLength: 120 }}
        onFocus={() => void selectPart(part.id)}
        onBlur={(event) => rename(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && (event.target as HTMLElement).blur()}
        sx={{ flex: 1, fontFamily: serif, fontWeight: open ? 650 : 400, fontSize: 15 }}
      />
      <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
        {formatTime(part.heardFrames / rate)}
      </Box>
      <IconButton
        size="small"
        disabled={readOnly}
        aria-label={say`Delete ${part.name}`}
        onClick={(event) => {
          event.stopPropagation();
          onDelete();
        }}
      >
        <DeleteOutlined fontSize="small" />
      </IconButton>
    </Box>
  );
}
