import { say } from '@/texts/say';
import HelpOutlineOutlined from '@mui/icons-material/HelpOutlineOutlined';
import IconButton from '@mui/material/IconButton';
import { helpAddress, type HelpId } from '@/core/base/helpIds';

/** The help for what is shown, in a window of its own: what is being recorded stays where it is. */
export function HelpLink({ about }: { about: HelpId }) {
  return (
    <IconButton
      size="small"
      component="a"
      href={helpAddress(about)}
      target="parola-help"
      aria-label={say`Help for this screen, in a window of its own`}
      title={say`Help`}
    >
      <HelpOutlineOutlined fontSize="small" />
    </IconButton>
  );
}
