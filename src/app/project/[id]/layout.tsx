import type { ReactNode } from 'react';
import { ProjectShell } from '@/ui/views/project/ProjectShell';

export default async function ProjectLayout({
  children,
  params,
}: {
  children: ReactNode;
  params: Promise<{ id: string }>;
}) {
  return <ProjectShell id={(await params).id}>{children}</ProjectShell>;
}
