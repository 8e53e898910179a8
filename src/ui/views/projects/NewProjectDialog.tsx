'use client';
import { say, written } from '@/texts/say';
import { specName } from '../../components/specName';
import { yupResolver } from '@hookform/resolvers/yup';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useEffect } from 'react';
import { Controller, useForm, useWatch } from 'react-hook-form';
import { number, object, string } from 'yup';
import { builtInSpecs } from '@/core/specs/builtIn';
import { sampleRatesHz } from '@/core/specs/fileFormat';
import { describeSpec } from '@/core/specs/describe';
import { notifyError } from '@/state/page/notices';
import { TemplateChoice } from './TemplateChoice';
import { createProject } from '@/state/project/projects';
import { createFromTemplate, readTemplates, templateNamed, useTemplates } from '@/state/project/templates';
import { allSpecs, readSpecLibrary, specNamed, useSpecLibrary } from '@/state/project/specLibrary';

/** What stands for no template in the list. */
const noTemplate = '';

const schema = object({
  template: string().defined(),
  name: string()
    .trim()
    .required(say`Give the project a name.`)
    .max(120, say`A name has at most 120 letters.`),
  spec: string().required(),
  rateHz: number()
    .oneOf([...sampleRatesHz])
    .required(),
});

/** A project starts from its specification; the recording rate follows the file the client wants. */
export function NewProjectDialog({
  onClose,
  onCreated,
}: {
  onClose: () => void;
  onCreated: (id: string) => void;
}) {
  const [first] = builtInSpecs;
  const form = useForm({
    resolver: yupResolver(schema),
    defaultValues: { template: noTemplate, name: '', spec: first.name, rateHz: first.file.rateHz },
  });
  const own = useSpecLibrary((state) => state.own);
  const templates = useTemplates((state) => state.own);
  useEffect(() => {
    void readSpecLibrary();
    void readTemplates();
  }, []);
  const template = templateNamed(useWatch({ control: form.control, name: 'template' }));
  const chosen = specNamed(useWatch({ control: form.control, name: 'spec' })) ?? first;
  const submit = form.handleSubmit(({ name, rateHz }) => {
    const created = template ? createFromTemplate(name, template) : createProject(name, chosen, rateHz);
    created.then(onCreated, notifyError);
  });
  const { errors } = form.formState;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <form onSubmit={(event) => void submit(event)}>
        <DialogTitle>{say`New project`}</DialogTitle>
        <DialogContent>
          <TextField
            {...form.register('name')}
            label={say`Name`}
            autoFocus
            fullWidth
            margin="dense"
            error={!!errors.name}
            helperText={errors.name?.message ?? ' '}
          />
          <TemplateChoice
            chosen={template}
            own={templates}
            onChoose={(chosenName) => form.setValue('template', chosenName)}
          />
          {!template && (
            <>
              <Controller
                control={form.control}
                name="spec"
                render={({ field }) => (
                  <TextField
                    {...field}
                    select
                    label={say`Delivery specification`}
                    fullWidth
                    margin="dense"
                    onChange={(event) => {
                      field.onChange(event);
                      form.setValue('rateHz', specNamed(event.target.value)?.file.rateHz ?? 48_000);
                    }}
                  >
                    {allSpecs(own).map(({ name }) => (
                      <MenuItem key={name} value={name}>
                        {specName(name)}
                      </MenuItem>
                    ))}
                  </TextField>
                )}
              />
              <Typography color="text.secondary" variant="body2" sx={{ mb: 1.5 }}>
                {describeSpec(chosen)}
              </Typography>
              <Controller
                control={form.control}
                name="rateHz"
                render={({ field }) => (
                  <TextField
                    {...field}
                    select
                    label={say`Recording sample rate`}
                    fullWidth
                    margin="dense"
                    helperText={say`Cannot be changed later. Files are converted where the client wants another rate.`}
                  >
                    {sampleRatesHz.map((rate) => (
                      <MenuItem key={rate} value={rate}>
                        {`${written(rate / 1000)} kHz`}
                      </MenuItem>
                    ))}
                  </TextField>
                )}
              />
            </>
          )}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>{say`Cancel`}</Button>
          <Button type="submit" variant="contained">{say`Create`}</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
