import { create } from 'zustand';

export interface Choice {
  id: string;
  label: string;
  /** Something goes for good with it. */
  destructive?: boolean;
}

export interface Question {
  title: string;
  text: string;
  choices: readonly Choice[];
  answer: (choice: string | null) => void;
}

/** What the user is being asked, in a dialog; one question at a time. */
export const useQuestion = create<{ question: Question | null }>(() => ({ question: null }));

/**
 * Asks, and resolves to the id of what is chosen, or to null when the dialog is closed without. A question
 * that is open is taken back.
 */
export function ask(question: Omit<Question, 'answer'>): Promise<string | null> {
  useQuestion.getState().question?.answer(null);
  return new Promise((resolve) => {
    const answer = (choice: string | null) => {
      useQuestion.setState({ question: null });
      resolve(choice);
    };
    useQuestion.setState({ question: { ...question, answer } });
  });
}
