'use client';
import { NotShown } from '@/ui/components/Contained';

export default function Failed({ error, reset }: { error: Error; reset: () => void }) {
  return <NotShown what="This page" error={error} resetErrorBoundary={reset} />;
}
