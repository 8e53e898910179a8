'use client';
import { NotShown } from '@/ui/components/Contained';

export default function Failed({ reset }: { reset: () => void }) {
  return <NotShown what="This page" resetErrorBoundary={reset} />;
}
