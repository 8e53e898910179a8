import { BoothView } from '@/ui/views/booth/BoothView';

export default function BoothPage() {
  return <BoothView />;
}
