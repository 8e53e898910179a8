import Alert, { type AlertProps } from '@mui/material/Alert';
import type { HelpId } from '@/core/base/helpIds';
import { MoreInHelp } from './MoreInHelp';

/** Says what is wrong beside the thing it is about, and where there is more to say of it. */
export const WhatIsWrong = ({ about, children, ...props }: AlertProps & { about: HelpId }) => (
  <Alert severity="error" {...props}>
    {children}
    <MoreInHelp about={about} wrong />
  </Alert>
);
