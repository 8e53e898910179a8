import { BriefView } from '@/ui/views/brief/BriefView';

export default function BriefPage() {
  return <BriefView />;
}
