import { create } from 'zustand';

/** Whether it is shown where the project is kept. */
export const useKeeping = create<{ shown: boolean }>(() => ({ shown: false }));
export const showKeeping = (shown: boolean) => useKeeping.setState({ shown });
