import type { Announcements } from '@dnd-kit/core';
import { say } from '@/texts/say';

const howToMove = say`Space lifts it, the arrow keys move it, Space puts it down there; Escape leaves it where it was.`;

const placeOf = (over: { data: { current?: { sortable?: { index: number } } } } | null) =>
  (over?.data.current?.sortable?.index ?? 0) + 1;

/** What is read out while something is moved in a list. */
const announcements: Announcements = {
  onDragStart: ({ active }) => say`Lifted from place ${placeOf(active)}.`,
  onDragOver: ({ over }) => (over ? say`Over place ${placeOf(over)}.` : undefined),
  onDragEnd: ({ over }) => (over ? say`Put down at place ${placeOf(over)}.` : say`Put back.`),
  onDragCancel: () => say`Put back.`,
};

/** How things are moved in a list by keyboard, and what is read out meanwhile. */
export const movingWords = { screenReaderInstructions: { draggable: howToMove }, announcements };
