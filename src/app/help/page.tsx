import { helpInLanguages } from '@/node/helpPages';
import { HelpView } from '@/ui/views/help/HelpView';

export default function HelpPage() {
  return <HelpView pages={helpInLanguages()} />;
}
