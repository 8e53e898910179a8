import { say } from '@/texts/say';
import Link from '@mui/material/Link';
import { helpAddress, type HelpId } from '@/core/base/helpIds';

/** A link into the help, which has a window of its own: what is being recorded stays where it is. */
export const MoreInHelp = ({ about, wrong = false }: { about: HelpId; wrong?: boolean }) => (
  <>
    {' '}
    <Link href={helpAddress(about, wrong)} target="parola-help" color="inherit">{say`More in the help`}</Link>
  </>
);
