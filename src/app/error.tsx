'use client';
import { say } from '@/texts/say';
import { NotShown } from '@/ui/components/Contained';

export default function Failed({ reset }: { reset: () => void }) {
  return <NotShown what={say`This page`} resetErrorBoundary={reset} />;
}
