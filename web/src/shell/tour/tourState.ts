// Whether the tour is under way, and whether it was offered in this browser before.
import { create } from 'zustand';

const KEY = 'variscen.tour';

interface TourState {
  readonly status: 'new' | 'running' | 'ended';
  start(): void;
  /** Taken to its end, left, or not wanted: it is not offered again. */
  end(): void;
}

export const useTourState = create<TourState>((set) => ({
  status: localStorage.getItem(KEY) === null ? 'new' : 'ended',
  start: () => set({ status: 'running' }),
  end: () => {
    localStorage.setItem(KEY, 'ended');
    set({ status: 'ended' });
  },
}));
