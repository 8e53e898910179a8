import { say } from '@/texts/say';
import { specName } from '../../components/specName';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ListSubheader from '@mui/material/ListSubheader';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useRef } from 'react';
import { builtInTemplates } from '@/core/templates/builtIn';
import { describeSpec } from '@/core/specs/describe';
import type { Template } from '@/core/templates/template';
import {
  forgetTemplate,
  openTemplateFile,
  saveTemplateFile,
  templateEnding,
} from '@/state/project/templates';

interface Props {
  chosen: Template | undefined;
  own: readonly Template[];
  onChoose: (name: string) => void;
}

/** What a project starts from: a spec alone, or a template with all that belongs to a session. */
export function TemplateChoice({ chosen, own, onChoose }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  const isOwn = chosen !== undefined && own.includes(chosen);
  return (
    <>
      <TextField
        select
        fullWidth
        margin="dense"
        label={say`Start from`}
        value={chosen?.name ?? ''}
        onChange={({ target }) => onChoose(target.value)}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      >
        <MenuItem value="">{say`A delivery specification alone`}</MenuItem>
        <ListSubheader>{say`Templates`}</ListSubheader>
        {builtInTemplates.map(({ name }) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
        {own.length > 0 && <ListSubheader>{say`Your own`}</ListSubheader>}
        {own.map(({ name }) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
      </TextField>
      {chosen && <Described template={chosen} />}
      <Box sx={{ display: 'flex', gap: 1, mb: 1 }}>
        {isOwn && (
          <>
            <Button
              size="small"
              color="inherit"
              onClick={() => saveTemplateFile(chosen)}
            >{say`Save it to a file`}</Button>
            <Button
              size="small"
              color="inherit"
              onClick={() => {
                onChoose('');
                void forgetTemplate(chosen.name);
              }}
            >{say`Forget it`}</Button>
          </>
        )}
        <Button
          size="small"
          color="inherit"
          onClick={() => picker.current?.click()}
        >{say`Template from a file …`}</Button>
        <input
          ref={picker}
          type="file"
          hidden
          accept={`${templateEnding},.json`}
          aria-label={say`Template file`}
          onChange={({ target }) => {
            const [file] = target.files ?? [];
            target.value = '';
            if (file) void openTemplateFile(file).then((name) => name !== null && onChoose(name));
          }}
        />
      </Box>
    </>
  );
}

const listed = (words: readonly string[]) => words.map((word) => `“${word}”`).join(', ');
const mostParts = 4;

function Described({ template }: { template: Template }) {
  const { note, spec, rateHz, parts, further, tracks, beds } = template;
  const more = parts.length > mostParts ? say` and ${parts.length - mostParts} more` : '';
  const chains = tracks.flatMap(({ name, chain }) =>
    chain ? [`${name}: ${chain.name || say`a chain`}`] : [],
  );
  return (
    <Typography color="text.secondary" variant="body2" component="div" sx={{ mb: 1 }}>
      {note && <Box sx={{ mb: 0.5 }}>{note}</Box>}
      <Box>{say`${specName(spec.name)}, ${rateHz / 1000} kHz. ${describeSpec(spec)}`}</Box>
      <Box>
        {say`Parts ${listed(parts.slice(0, mostParts))}${more}, further ones as “${further}”. ${tracks.length === 1 ? say`Track` : say`Tracks`} ${listed(tracks.map(({ name }) => name))}`}
        {chains.length > 0 && say`, with ${chains.join('; ')}`}.
        {beds.length > 0 &&
          ` ${beds.length === 1 ? say`Bed` : say`Beds`} ${listed(beds.map(({ name }) => name))}.`}
      </Box>
    </Typography>
  );
}
