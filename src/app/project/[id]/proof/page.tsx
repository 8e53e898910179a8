import { ProofView } from '@/ui/views/proof/ProofView';

export default function ProofPage() {
  return <ProofView />;
}
