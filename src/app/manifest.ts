import type { MetadataRoute } from 'next';

/** How the application is installed (W3C Web Application Manifest), and what files it opens. */
export default function manifest(): MetadataRoute.Manifest {
  return {
    name: 'Parola',
    short_name: 'Parola',
    description: 'Record speech to a delivery specification, and hand over files that pass.',
    start_url: '/',
    scope: '/',
    display: 'standalone',
    background_color: '#FBF8F2',
    theme_color: '#FBF8F2',
    icons: [
      { src: '/icon.svg', sizes: 'any', type: 'image/svg+xml' },
      { src: '/icons/192.png', sizes: '192x192', type: 'image/png' },
      { src: '/icons/512.png', sizes: '512x512', type: 'image/png' },
    ],
    file_handlers: [
      {
        action: '/',
        accept: { 'application/zip': ['.parola'], 'audio/wav': ['.wav'] },
      },
    ],
  };
}
