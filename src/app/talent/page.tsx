import type { Metadata } from 'next';
import { TalentView } from '@/ui/views/talent/TalentView';

export const metadata: Metadata = { title: 'Parola: a session', robots: { index: false } };

export default function TalentPage() {
  return <TalentView />;
}
