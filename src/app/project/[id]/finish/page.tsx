import { FinishView } from '@/ui/views/finish/FinishView';

export default function FinishPage() {
  return <FinishView />;
}
