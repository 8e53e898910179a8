import { ProjectsView } from '@/ui/views/projects/ProjectsView';

export default function ProjectsPage() {
  return <ProjectsView />;
}
