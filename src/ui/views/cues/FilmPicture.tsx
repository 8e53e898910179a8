'use client';
import { useEffect, useRef } from 'react';
import type { PartFilm } from '@/state/hearing/film';
import { followFilm } from '@/state/hearing/filmFollowing';

interface Props {
  film: PartFilm;
  address: string;
  /** The browser cannot show it after all. */
  onBroken: () => void;
}

/** The film of a part, silent. */
export function FilmPicture({ film, address, onBroken }: Props) {
  const ref = useRef<HTMLVideoElement>(null);
  useEffect(() => (ref.current ? followFilm(ref.current, film) : undefined), [film]);
  return (
    <video
      ref={ref}
      data-testid="film"
      src={address}
      muted
      playsInline
      preload="auto"
      onError={onBroken}
      style={{ display: 'block', width: '100%', height: '100%', objectFit: 'contain' }}
    />
  );
}
